import type { Pixels } from '../picture.ts';
import type { PixelRegion } from './pixel-bytes.ts';

/** How often each value comes, channel by channel, in 256 steps between the lowest and the highest that a picture can have. */
export interface Histogram {
  /** Red, green, blue, alpha. */
  counts: [Uint32Array, Uint32Array, Uint32Array, Uint32Array];
  /** Values of the first and of the last step. */
  low: number;
  high: number;
  /** Least and greatest value, channel by channel. */
  ranges: [number, number][];
  /** Pixels that were counted: all, or every so-manieth of a large picture. */
  pixels: number;
}

const mostCounted = 4_000_000;
const stepsOfHistogram = 256;

export function histogramOf({ width, height, data }: Pixels): Histogram {
  const pixels = width * height;
  const stride = Math.max(1, Math.ceil(pixels / mostCounted));
  const ranges = [0, 1, 2, 3].map((): [number, number] => [Infinity, -Infinity]);
  for (let at = 0; at < pixels; at += stride)
    for (let channel = 0; channel < 4; channel++) {
      const value = data[at * 4 + channel] ?? 0;
      const range = ranges[channel];
      if (!range) continue;
      if (value < range[0]) range[0] = value;
      if (value > range[1]) range[1] = value;
    }
  const isFloat = data instanceof Float32Array;
  const low = isFloat ? Math.min(0, ...ranges.map(([least]) => least)) : 0;
  const high = isFloat
    ? Math.max(1, ...ranges.map(([, greatest]) => greatest))
    : data instanceof Uint16Array
      ? 65535
      : 255;
  const counts = [0, 1, 2, 3].map(() => new Uint32Array(stepsOfHistogram)) as Histogram['counts'];
  let counted = 0;
  for (let at = 0; at < pixels; at += stride) {
    counted++;
    for (let channel = 0; channel < 4; channel++) {
      const step = Math.floor((((data[at * 4 + channel] ?? 0) - low) / (high - low)) * 255.999);
      const list = counts[channel];
      if (list) list[step] = (list[step] ?? 0) + 1;
    }
  }
  return { counts, low, high, ranges, pixels: counted };
}

/**
 * The rectangle that cropping would leave: what is not wholly clear, or, in a picture without clear pixels, what is not of the
 * colour of its first corner.
 * @returns null where nothing would be left, or nothing cut off
 */
export function cropBox({ width, height, data }: Pixels): PixelRegion | null {
  const isClear = (at: number): boolean => (data[at + 3] ?? 0) === 0;
  let hasClear = false;
  for (let at = 3; at < data.length && !hasClear; at += 4) hasClear = data[at] === 0;
  const isGround = hasClear
    ? isClear
    : (at: number): boolean => [0, 1, 2, 3].every((channel) => data[at + channel] === data[channel]);
  let [left, top, right, bottom] = [width, height, -1, -1];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      // Within what is known already there is nothing to learn, but at its sides.
      if (y > top && y <= bottom && x > left && x < right) x = right;
      if (isGround((y * width + x) * 4)) continue;
      if (x < left) left = x;
      if (x > right) right = x;
      if (y < top) top = y;
      if (y > bottom) bottom = y;
    }
  const box = { left, top, width: right - left + 1, height: bottom - top + 1 };
  return right < 0 || (box.width === width && box.height === height) ? null : box;
}
