import type { Raster } from '../../reading.ts';
import { stretch } from '../stretch.ts';
import { writeLab } from './colour-difference.ts';

const side = 32;

const tinies = new WeakMap<Raster, Raster>();

/** A picture as a few pixels, made once. */
function tiny(raster: Raster): Raster {
  const known = tinies.get(raster) ?? stretch(raster, side, side);
  tinies.set(raster, known);
  return known;
}

/** Mean CIELAB of what is covered. */
export function meanLab(raster: Raster): [number, number, number] {
  const { rgba } = tiny(raster);
  const lab = new Float64Array(3);
  const sum: [number, number, number] = [0, 0, 0];
  let covered = 0;
  for (let at = 0; at < rgba.length; at += 4) {
    const cover = (rgba[at + 3] ?? 0) / 255;
    if (cover === 0) continue;
    writeLab(rgba[at] ?? 0, rgba[at + 1] ?? 0, rgba[at + 2] ?? 0, lab, 0);
    sum[0] += (lab[0] ?? 0) * cover;
    sum[1] += (lab[1] ?? 0) * cover;
    sum[2] += (lab[2] ?? 0) * cover;
    covered += cover;
  }
  return covered === 0 ? sum : [sum[0] / covered, sum[1] / covered, sum[2] / covered];
}

/** Mean step of brightness from a pixel to its right neighbour, in 255ths: finer and sharper pictures have more. */
export function sharpness(brightness: Uint8Array, width: number): number {
  let [sum, count] = [0, 0];
  for (let row = 0; row + width <= brightness.length; row += width) {
    count += width - 1;
    let before = brightness[row] ?? 0;
    for (let at = row + 1; at < row + width; at++) {
      const value = brightness[at] ?? 0;
      sum += value > before ? value - before : before - value;
      before = value;
    }
  }
  return sum / Math.max(1, count);
}

const mostDirections = 65_536;

/**
 * Angles between the directions of two normal maps of one size; null where one of them is none.
 * @param small both, made smaller: enough to tell a normal map
 */
export function normalDegrees(
  old: Raster,
  now: Raster,
  small: readonly [Raster, Raster],
): { mean: number; greatest: number } | null {
  if (!small.every(isNormalMap)) return null;
  const pixels = now.rgba.length / 4;
  const every = Math.max(1, Math.floor(pixels / mostDirections));
  let [sum, count, greatest] = [0, 0, 0];
  for (let pixel = 0; pixel < pixels; pixel += every) {
    const a = direction(old.rgba, pixel * 4);
    const b = direction(now.rgba, pixel * 4);
    const lengths = Math.hypot(...a) * Math.hypot(...b);
    if (lengths === 0) continue;
    const cosine = (a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) / lengths;
    const degrees = (Math.acos(Math.max(-1, Math.min(1, cosine))) * 180) / Math.PI;
    sum += degrees;
    count++;
    greatest = Math.max(greatest, degrees);
  }
  return count === 0 ? null : { mean: sum / count, greatest };
}

/** Directions as they are kept in tangent space: x, y and z from -1 to 1 as 0 to 255, most of them pointing out. */
function isNormalMap(raster: Raster): boolean {
  const { rgba } = tiny(raster);
  let [unit, outward] = [0, 0];
  for (let at = 0; at < rgba.length; at += 4) {
    const length = Math.hypot(...direction(rgba, at));
    if (Math.abs(length - 1) < 0.15) unit++;
    if ((rgba[at + 2] ?? 0) > 150) outward++;
  }
  const pixels = side * side;
  return unit > pixels * 0.9 && outward > pixels * 0.7;
}

function direction(rgba: Uint8Array, at: number): [number, number, number] {
  return [
    (rgba[at] ?? 0) / 127.5 - 1,
    (rgba[at + 1] ?? 0) / 127.5 - 1,
    Math.max(0, (rgba[at + 2] ?? 0) / 127.5 - 1),
  ];
}
