import { Document, WebIO } from '@gltf-transform/core';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { seeded } from '../demo/seeded.ts';

/** Pixels of a picture’s side. */
export const side = 1024;

/** Shapes, gradients and a little noise, as textures have them; no two alike. */
export async function makePictures(
  folder: string,
  count: number,
  change: (pixels: Uint8Array, number: number) => void = () => undefined,
): Promise<void> {
  const random = seeded(11);
  const noise = Uint8Array.from({ length: side * side }, () => random() * 12);
  const make = async (number: number): Promise<void> => {
    const pixels = new Uint8Array(side * side * 3);
    const [a, b, c] = [1 + (number % 7), 2 + (number % 11), 3 + (number % 13)];
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const at = y * side + x;
        const stripe = ((x * a + y * b) >> 6) & 1 ? 40 : 0;
        pixels[at * 3] = ((x * c) >> 4) + stripe + (noise[(at + number * 977) % noise.length] ?? 0);
        pixels[at * 3 + 1] = ((y * a) >> 3) + stripe;
        pixels[at * 3 + 2] = 60 + ((x ^ y) >> 3) + (number % 90);
      }
    change(pixels, number);
    const bytes = await sharp(pixels, { raw: { width: side, height: side, channels: 3 } })
      .png({ compressionLevel: 4 })
      .toBuffer();
    writeFileSync(join(folder, `${number}.png`), bytes);
  };
  for (let number = 0; number < count; number += 2)
    await Promise.all([make(number), ...(number + 1 < count ? [make(number + 1)] : [])]);
}

/** A wavy sheet as GLB, indexed, with normals and UVs. @param bulge how high it rises in the middle, in metres */
export async function wavySheet(steps: number, bulge = 0): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const count = (steps + 1) ** 2;
  const positions = new Float32Array(count * 3);
  const normals = new Float32Array(count * 3);
  const uvs = new Float32Array(count * 2);
  const indices = new Uint32Array(steps * steps * 6);
  for (let y = 0, at = 0; y <= steps; y++)
    for (let x = 0; x <= steps; x++, at++) {
      positions.set(
        [
          x / steps,
          Math.sin(x / 9) * Math.cos(y / 7) * 0.1 +
            bulge * Math.exp(-((x / steps - 0.5) ** 2 + (y / steps - 0.5) ** 2) * 40),
          y / steps,
        ],
        at * 3,
      );
      normals.set([0, 1, 0], at * 3);
      uvs.set([x / steps, y / steps], at * 2);
      if (x === steps || y === steps) continue;
      indices.set([at, at + steps + 1, at + 1, at + 1, at + steps + 1, at + steps + 2], (y * steps + x) * 6);
    }
  const accessor = (
    type: 'SCALAR' | 'VEC2' | 'VEC3',
    array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer>,
  ) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setIndices(accessor('SCALAR', indices))
    .setAttribute('POSITION', accessor('VEC3', positions))
    .setAttribute('NORMAL', accessor('VEC3', normals))
    .setAttribute('TEXCOORD_0', accessor('VEC2', uvs));
  document
    .createScene()
    .addChild(document.createNode('sheet').setMesh(document.createMesh('sheet').addPrimitive(primitive)));
  return new WebIO().writeBinary(document);
}
