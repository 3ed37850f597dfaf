import { ReadError } from '../../reading.ts';
import type { Pixels } from '../picture.ts';
import { fromLight, toLight } from '../../srgb.ts';
import { fullScaleOf } from '../write/depth.ts';

/** Lobes of the kernel to either side (Duchon, 1979). */
const lobes = 3;
const mostPixels = 2 ** 28;
const mostPixelsOfSide = 32_768;

/** The size of a picture that is scaled by a factor: rounded down, a pixel at the least (common practice, no published source). */
export function scaledSize(
  { width, height }: { width: number; height: number },
  factor: number,
): { width: number; height: number } {
  return { width: Math.max(1, Math.floor(width * factor)), height: Math.max(1, Math.floor(height * factor)) };
}

/**
 * Scales a picture by the Lanczos kernel of three lobes, in linear light, colours weighed by alpha. Rows are made one after the other:
 * what is in memory beside the two pictures is a few of them.
 * @param isData whether the numbers are data, which have no curve
 * @throws ReadError for a size that is too large
 */
export function scaled(pixels: Pixels, size: { width: number; height: number }, isData: boolean): Pixels {
  const { width, height } = size;
  if (width * height > mostPixels || Math.max(width, height) > mostPixelsOfSide)
    throw new ReadError(`${width} × ${height} pixels are more than a picture is scaled to`);
  const { data } = pixels;
  const Values = data.constructor as new (length: number) => typeof data;
  const result = new Values(width * height * 4);
  const light = lightOf(data, isData);
  const back = codedOf(data, isData);
  const across = windows(pixels.width, width);
  const down = windows(pixels.height, height);
  const rows = new Map<number, Float32Array>();
  const sums = new Float32Array(width * 4);
  for (let y = 0; y < height; y++) {
    const window = down[y];
    if (!window) continue;
    for (const known of rows.keys()) if (known < window.first) rows.delete(known);
    sums.fill(0);
    window.weights.forEach((weight, k) => {
      const from = Math.max(0, Math.min(pixels.height - 1, window.first + k));
      const row = rows.get(from) ?? rowOf(data, from, pixels.width, across, light);
      rows.set(from, row);
      for (let at = 0; at < row.length; at++) sums[at] = (sums[at] ?? 0) + (row[at] ?? 0) * weight;
    });
    for (let at = 0, to = y * width * 4; at < sums.length; at += 4, to += 4) {
      // The kernel rings: colours are divided by what their weights came to, which may be more than all.
      const alpha = sums[at + 3] ?? 0;
      for (let channel = 0; channel < 3; channel++)
        result[to + channel] = back(alpha > 0 ? (sums[at + channel] ?? 0) / alpha : 0, false);
      result[to + 3] = back(alpha, true);
    }
  }
  return { width, height, data: result };
}

interface Window {
  first: number;
  weights: number[];
}

/** Which pixels each new one is made of, and how much of each; beyond an edge the last one goes on. */
function windows(from: number, to: number): Window[] {
  const step = from / to;
  const spread = Math.max(1, step);
  return Array.from({ length: to }, (_, at) => {
    const centre = (at + 0.5) * step - 0.5;
    const first = Math.ceil(centre - lobes * spread);
    const last = Math.floor(centre + lobes * spread);
    const weights = Array.from({ length: last - first + 1 }, (_one, k) =>
      lanczos((first + k - centre) / spread),
    );
    const sum = weights.reduce((total, weight) => total + weight, 0);
    return { first, weights: weights.map((weight) => weight / sum) };
  });
}

function lanczos(x: number): number {
  if (x === 0) return 1;
  if (Math.abs(x) >= lobes) return 0;
  const angle = Math.PI * x;
  return (lobes * Math.sin(angle) * Math.sin(angle / lobes)) / (angle * angle);
}

/** A row in its new width: linear light, colours multiplied by alpha. */
function rowOf(
  data: Pixels['data'],
  y: number,
  width: number,
  across: readonly Window[],
  light: (value: number, isAlpha: boolean) => number,
): Float32Array {
  const own = new Float32Array(width * 4);
  for (let x = 0; x < width; x++) {
    const from = (y * width + x) * 4;
    const alpha = light(data[from + 3] ?? 0, true);
    for (let channel = 0; channel < 3; channel++)
      own[x * 4 + channel] = light(data[from + channel] ?? 0, false) * alpha;
    own[x * 4 + 3] = alpha;
  }
  const row = new Float32Array(across.length * 4);
  across.forEach(({ first, weights }, x) => {
    for (const [k, weight] of weights.entries()) {
      const from = Math.max(0, Math.min(width - 1, first + k)) * 4;
      for (let channel = 0; channel < 4; channel++)
        row[x * 4 + channel] = (row[x * 4 + channel] ?? 0) + (own[from + channel] ?? 0) * weight;
    }
  });
  return row;
}

function lightOf(data: Pixels['data'], isData: boolean): (value: number, isAlpha: boolean) => number {
  if (data instanceof Float32Array) return (value) => value;
  const full = fullScaleOf(data);
  const curve = Float32Array.from({ length: full + 1 }, (_, value) => toLight(value / full));
  return (value, isAlpha) => (isAlpha || isData ? value / full : (curve[value] ?? 0));
}

function codedOf(data: Pixels['data'], isData: boolean): (light: number, isAlpha: boolean) => number {
  if (data instanceof Float32Array) return (light) => light;
  const full = fullScaleOf(data);
  return (light, isAlpha) => {
    const value = Math.max(0, Math.min(1, light));
    return Math.round((isAlpha || isData ? value : fromLight(value)) * full);
  };
}
