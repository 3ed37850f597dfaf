import type { Raster } from '../reading.ts';
import { findKernels } from '../../kernels/kernels.ts';
import type { Pixels } from './picture.ts';

/**
 * A picture as 8 bits of sRGB that fits into a square: every pixel of it is the mean of the area that it stands for,
 * weighed by alpha. Smaller pictures keep their size. Linear light in floats is brought into range by x / (1 + x) of
 * its excess over a half, so that what is bright still shows.
 */
export function shrink(pixels: Pixels, maximumSize: number): Raster {
  const { width, height } = pixels;
  const scale = Math.min(1, maximumSize / Math.max(width, height));
  const size = {
    width: Math.max(1, Math.round(width * scale)),
    height: Math.max(1, Math.round(height * scale)),
  };
  const data = toBytes(pixels.data);
  return { ...size, rgba: scale === 1 ? data : average(data, width, height, size.width, size.height) };
}

/** Sums of whole source pixels: at the sizes of previews the fractions at their edges cannot be seen. */
function average(
  data: Uint8Array,
  width: number,
  height: number,
  toWidth: number,
  toHeight: number,
): Uint8Array {
  const kernels = findKernels();
  const isFitting = kernels && width <= kernels.stripPixels && toWidth * 5 <= kernels.sums.length;
  if (!isFitting) return averageHere(data, width, height, toWidth, toHeight);
  const rgba = new Uint8Array(toWidth * toHeight * 4);
  kernels.numbers.set(edges(width, toWidth));
  const tops = edges(height, toHeight);
  const rowsAtOnce = Math.floor(kernels.stripPixels / width);
  for (let y = 0; y < toHeight; y++) {
    const bottom = tops[y + 1] ?? 0;
    kernels.clearSums(toWidth);
    for (let row = tops[y] ?? 0; row < bottom; row += rowsAtOnce) {
      const rows = Math.min(rowsAtOnce, bottom - row);
      kernels.first.set(data.subarray(row * width * 4, (row + rows) * width * 4));
      kernels.addRows(rows, width, toWidth);
    }
    kernels.finishRow(toWidth);
    rgba.set(kernels.output.subarray(0, toWidth * 4), y * toWidth * 4);
  }
  return rgba;
}

/** The same without WebAssembly. */
export function averageHere(
  data: Uint8Array,
  width: number,
  height: number,
  toWidth: number,
  toHeight: number,
): Uint8Array {
  const rgba = new Uint8Array(toWidth * toHeight * 4);
  const lefts = edges(width, toWidth);
  const tops = edges(height, toHeight);
  const sums = new Float64Array(toWidth * 5);
  for (let y = 0; y < toHeight; y++) {
    sums.fill(0);
    const top = tops[y] ?? 0;
    const bottom = tops[y + 1] ?? 0;
    for (let row = top; row < bottom; row++) {
      let at = row * width * 4;
      for (let x = 0; x < toWidth; x++) {
        const right = lefts[x + 1] ?? 0;
        let red = 0;
        let green = 0;
        let blue = 0;
        let alpha = 0;
        const count = right - (lefts[x] ?? 0);
        for (let column = 0; column < count; column++, at += 4) {
          const cover = data[at + 3] ?? 0;
          if (cover === 255) {
            red += data[at] ?? 0;
            green += data[at + 1] ?? 0;
            blue += data[at + 2] ?? 0;
            alpha += 1;
          } else if (cover > 0) {
            const share = cover / 255;
            red += (data[at] ?? 0) * share;
            green += (data[at + 1] ?? 0) * share;
            blue += (data[at + 2] ?? 0) * share;
            alpha += share;
          }
        }
        const sum = x * 5;
        sums[sum] = (sums[sum] ?? 0) + red;
        sums[sum + 1] = (sums[sum + 1] ?? 0) + green;
        sums[sum + 2] = (sums[sum + 2] ?? 0) + blue;
        sums[sum + 3] = (sums[sum + 3] ?? 0) + alpha;
        sums[sum + 4] = (sums[sum + 4] ?? 0) + count;
      }
    }
    for (let x = 0; x < toWidth; x++) {
      const sum = x * 5;
      const covered = sums[sum + 3] ?? 0;
      const to = (y * toWidth + x) * 4;
      if (covered === 0) continue;
      for (let channel = 0; channel < 3; channel++)
        rgba[to + channel] = Math.min(255, Math.round((sums[sum + channel] ?? 0) / covered));
      rgba[to + 3] = Math.round((covered / (sums[sum + 4] ?? 1)) * 255);
    }
  }
  return rgba;
}

function edges(size: number, parts: number): Int32Array {
  return Int32Array.from({ length: parts + 1 }, (_, part) => Math.round((part * size) / parts));
}

function toBytes(data: Pixels['data']): Uint8Array {
  if (data instanceof Uint8Array) return data;
  const bytes = new Uint8Array(data.length);
  if (data instanceof Uint16Array) {
    for (let at = 0; at < data.length; at++) bytes[at] = ((data[at] ?? 0) * 255 + 32_767) / 65_535;
    return bytes;
  }
  for (let at = 0; at < data.length; at++)
    bytes[at] = at % 4 === 3 ? Math.round(clamp(data[at] ?? 0) * 255) : byteOfLight(data[at] ?? 0);
  return bytes;
}

function clamp(value: number): number {
  return value > 0 ? Math.min(1, value) : 0;
}

/** sRGB transfer curve, IEC 61966-2-1. */
function byteOfLight(value: number): number {
  const excess = Math.max(0, value - 0.5);
  const light = clamp(Math.min(value, 0.5) + (0.5 * excess) / (0.5 + excess));
  return Math.round(255 * (light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055));
}
