import type { Raster } from '../../reading.ts';

/** Rows of brightness that stand for a whole picture. */
export interface Bands {
  values: Uint8Array;
  height: number;
}

const bandRows = 8;

/** Bands of eight rows, which is what a window is high, spread evenly over large pictures; of others all rows. */
export function bandsOf({ width, height, rgba }: Raster): Bands {
  const every = Math.max(1, Math.floor(Math.sqrt((width * height) / 40_000)));
  if (every < 3) return { values: brightnessOf({ width, height, rgba }), height };
  const bands = Math.max(1, Math.floor(height / bandRows / every));
  const values = new Uint8Array(bands * bandRows * width);
  for (let band = 0; band < bands; band++)
    writeBrightness(rgba, band * every * bandRows * width, bandRows * width, values, band * bandRows * width);
  return { values, height: bands * bandRows };
}

/** Brightness in 255ths of all pixels. */
export function brightnessOf({ width, height, rgba }: Raster): Uint8Array {
  const values = new Uint8Array(width * height);
  writeBrightness(rgba, 0, values.length, values, 0);
  return values;
}

/** Rec. 709 weights as whole 65536ths, over mid grey where alpha covers less than all. Pixels are counted, not bytes. */
function writeBrightness(rgba: Uint8Array, from: number, count: number, to: Uint8Array, start: number): void {
  for (let pixel = start, at = from * 4; pixel < start + count; pixel++, at += 4) {
    const value =
      (13_933 * (rgba[at] ?? 0) + 46_871 * (rgba[at + 1] ?? 0) + 4732 * (rgba[at + 2] ?? 0) + 32_768) >> 16;
    const alpha = rgba[at + 3] ?? 0;
    to[pixel] = alpha === 255 ? value : (value * alpha + 128 * (255 - alpha)) / 255;
  }
}

/**
 * Mean structural similarity (Wang, Bovik, Sheikh and Simoncelli, 2004) of two pictures of one size, in windows of 8 x 8
 * pixels that lie 4 apart: the sums of 4 x 4 blocks are made once and added up by fours, as encoders of video do. The
 * Gaussian window of the paper takes thirty times as long and tells nothing more of what is asked here.
 * @returns 1 for equal pictures, and for those that are too small for a window and equal
 */
export function structuralSimilarity(
  old: Uint8Array,
  now: Uint8Array,
  width: number,
  height: number,
): number {
  const across = width >> 2;
  const down = height >> 2;
  if (across < 2 || down < 2) return old.every((value, at) => value === now[at]) ? 1 : 0;
  // For each block: sum of either, sum of the squares of both, sum of the products.
  const sums = new Int32Array(across * down * 4);
  for (let blockY = 0; blockY < down; blockY++)
    for (let blockX = 0; blockX < across; blockX++) {
      let sumOld = 0;
      let sumNow = 0;
      let squares = 0;
      let products = 0;
      for (let y = 0; y < 4; y++) {
        const from = (blockY * 4 + y) * width + blockX * 4;
        for (let at = from; at < from + 4; at++) {
          const a = old[at] ?? 0;
          const b = now[at] ?? 0;
          sumOld += a;
          sumNow += b;
          squares += a * a + b * b;
          products += a * b;
        }
      }
      const to = (blockY * across + blockX) * 4;
      sums[to] = sumOld;
      sums[to + 1] = sumNow;
      sums[to + 2] = squares;
      sums[to + 3] = products;
    }
  let total = 0;
  for (let y = 0; y + 1 < down; y++)
    for (let x = 0; x + 1 < across; x++) {
      const at = (y * across + x) * 4;
      const below = at + across * 4;
      total += ofWindow(
        sumOfFour(sums, at, below),
        sumOfFour(sums, at + 1, below + 1),
        sumOfFour(sums, at + 2, below + 2),
        sumOfFour(sums, at + 3, below + 3),
      );
    }
  return total / ((across - 1) * (down - 1));
}

function sumOfFour(sums: Int32Array, at: number, below: number): number {
  return (sums[at] ?? 0) + (sums[at + 4] ?? 0) + (sums[below] ?? 0) + (sums[below + 4] ?? 0);
}

/** Constants of the paper for 8 bits: (0.01 · 255)² and (0.03 · 255)², of 64 pixels. */
const c1 = (0.01 * 255) ** 2 * 64 * 64;
const c2 = (0.03 * 255) ** 2 * 64 * 63;

function ofWindow(sumOld: number, sumNow: number, squares: number, products: number): number {
  const variances = squares * 64 - sumOld * sumOld - sumNow * sumNow;
  const covariance = products * 64 - sumOld * sumNow;
  return (
    ((2 * sumOld * sumNow + c1) * (2 * covariance + c2)) /
    ((sumOld * sumOld + sumNow * sumNow + c1) * (variances + c2))
  );
}
