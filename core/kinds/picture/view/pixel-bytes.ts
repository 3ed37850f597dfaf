import type { Pixels } from '../picture.ts';

/** Media type of what `packPixels` makes. */
export const pixelsType = 'application/vnd.worvel.pixels';

/** Part of a picture, in its own pixels. */
export interface PixelRegion {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Pixels as they travel to whoever looks at them: exactly as they are stored, or smaller where there are too many. */
export interface TravellingPixels {
  pixels: Pixels;
  /** What these are of the picture. */
  region: PixelRegion;
  /** Size of the whole picture. */
  fullWidth: number;
  fullHeight: number;
}

const headNumbers = 10;
const version = 1;

/** The numbers that say what they are, little-endian, 32 bits each; then the pixels. */
export function packPixels({ pixels, region, fullWidth, fullHeight }: TravellingPixels): Uint8Array {
  const { width, height, data } = pixels;
  const bytes = new Uint8Array(headNumbers * 4 + data.byteLength);
  const head = new DataView(bytes.buffer);
  const { left, top } = region;
  [
    version,
    width,
    height,
    data.BYTES_PER_ELEMENT,
    ...[left, top, region.width, region.height],
    ...[fullWidth, fullHeight],
  ].forEach((number, at) => head.setUint32(at * 4, number, true));
  bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), headNumbers * 4);
  return bytes;
}

/** @throws Error where these are no such bytes */
export function unpackPixels(bytes: ArrayBuffer): TravellingPixels {
  const head = new DataView(bytes);
  const numbers =
    bytes.byteLength < headNumbers * 4
      ? []
      : Array.from({ length: headNumbers }, (_, at) => head.getUint32(at * 4, true));
  const [
    said,
    width = 0,
    height = 0,
    bytesOfOne = 0,
    left = 0,
    top = 0,
    wide = 0,
    high = 0,
    fullWidth = 0,
    fullHeight = 0,
  ] = numbers;
  const List = { 1: Uint8Array, 2: Uint16Array, 4: Float32Array }[bytesOfOne];
  const count = width * height * 4;
  if (said !== version || !List || bytes.byteLength !== headNumbers * 4 + count * bytesOfOne)
    throw new Error('the server sent pixels that are not whole');
  return {
    pixels: { width, height, data: new List(bytes, headNumbers * 4, count) },
    region: { left, top, width: wide, height: high },
    fullWidth,
    fullHeight,
  };
}

/** Part of a picture as it is stored. */
export function cutRegion({ width, height, data }: Pixels, region: PixelRegion): Pixels {
  const left = Math.min(width - 1, region.left);
  const top = Math.min(height - 1, region.top);
  const wide = Math.min(region.width, width - left);
  const high = Math.min(region.height, height - top);
  const cut = new (data.constructor as new (length: number) => typeof data)(wide * high * 4);
  for (let y = 0; y < high; y++) {
    const from = ((top + y) * width + left) * 4;
    cut.set(data.subarray(from, from + wide * 4), y * wide * 4);
  }
  return { width: wide, height: high, data: cut };
}
