import { DataTexture, FloatType, RGBAFormat } from 'three';
import { EXRExporter, ZIP_COMPRESSION } from 'three/examples/jsm/exporters/EXRExporter.js';
import type { Pixels } from '../picture.ts';

/** OpenEXR of whole floats, packed with ZIP; rows of the exporter come from the bottom. */
export async function writeExr({
  width,
  height,
  data,
}: Pixels & { data: Float32Array }): Promise<Uint8Array> {
  const upside = new Float32Array(data.length);
  const row = width * 4;
  for (let y = 0; y < height; y++) upside.set(data.subarray(y * row, (y + 1) * row), (height - 1 - y) * row);
  const texture = new DataTexture(upside, width, height, RGBAFormat, FloatType);
  return new EXRExporter().parse(texture, { type: FloatType, compression: ZIP_COMPRESSION });
}
