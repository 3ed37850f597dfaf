import type { Pixels } from '../picture.ts';
import { fullScaleOf } from '../write/depth.ts';

/** Noise up to about this, of full scale, goes; what differs by several times as much is an edge and stays. */
const noiseShare = 6 / 255;
const reach = 2;
/** Steps up to this, of full scale, are bands; more is something that was meant. */
const bandShare = 2.2 / 255;
/** Pixels to either side within which a band has its neighbours, and how many of them are looked at. */
const bandReach = 16;
const bandStep = 2;

/**
 * Takes mild noise off: each pixel becomes the mean of those around it, weighed by how near they are and how like it (a bilateral filter:
 * Tomasi and Manduchi, Bilateral filtering for gray and color images, 1998). Alpha stays; what is clear does not count.
 * @param pixels integers; floats are given back as they are
 */
export function denoised(pixels: Pixels): Pixels {
  const { width, height, data } = pixels;
  if (data instanceof Float32Array) return pixels;
  const sigma = noiseShare * fullScaleOf(data);
  const result = data.slice();
  const nearness: number[] = [];
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++) nearness.push(Math.exp(-(dx * dx + dy * dy) / (2 * 1.2 * 1.2)));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4;
      const red = data[at] ?? 0;
      const green = data[at + 1] ?? 0;
      const blue = data[at + 2] ?? 0;
      let weights = 0;
      let [sumRed, sumGreen, sumBlue] = [0, 0, 0];
      let place = 0;
      for (let dy = -reach; dy <= reach; dy++)
        for (let dx = -reach; dx <= reach; dx++) {
          const near = nearness[place++] ?? 0;
          const [ox, oy] = [x + dx, y + dy];
          if (ox < 0 || oy < 0 || ox >= width || oy >= height) continue;
          const other = (oy * width + ox) * 4;
          if ((data[other + 3] ?? 0) === 0) continue;
          const r = (data[other] ?? 0) - red;
          const g = (data[other + 1] ?? 0) - green;
          const b = (data[other + 2] ?? 0) - blue;
          const weight = near * Math.exp(-(r * r + g * g + b * b) / (6 * sigma * sigma));
          weights += weight;
          sumRed += r * weight;
          sumGreen += g * weight;
          sumBlue += b * weight;
        }
      if (weights === 0) continue;
      result[at] = Math.round(red + sumRed / weights);
      result[at + 1] = Math.round(green + sumGreen / weights);
      result[at + 2] = Math.round(blue + sumBlue / weights);
    }
  return { width, height, data: result };
}

/**
 * Smooths bands of a gradient that has too few steps: where the places to the left and right of a pixel, and above and below it, differ
 * from it by a step or two, it becomes their mean, and what lies between two values is dithered (by an ordered pattern: Bayer, 1973).
 * @param pixels integers; floats have no bands
 */
export function withoutBands(pixels: Pixels): Pixels {
  const { width, height, data } = pixels;
  if (data instanceof Float32Array) return pixels;
  const most = bandShare * fullScaleOf(data);
  const result = data.slice();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4;
      const pattern = (bayer[(y % 4) * 4 + (x % 4)] ?? 0) / 16 + 1 / 32;
      for (let channel = 0; channel < 3; channel++) {
        const own = data[at + channel] ?? 0;
        const mean = meanAround(data, width, height, x, y, channel, own, most);
        if (mean !== null && mean !== own) result[at + channel] = Math.floor(mean + pattern);
      }
    }
  return { width, height, data: result };
}

const bayer = [0, 8, 2, 10, 12, 4, 14, 6, 3, 11, 1, 9, 15, 7, 13, 5];

/**
 * The mean along a row or a column, whichever is farther from the own value: across a gradient, not along its bands.
 * @returns null where something other than a band lies around
 */
function meanAround(
  data: Uint8Array | Uint16Array,
  width: number,
  height: number,
  x: number,
  y: number,
  channel: number,
  own: number,
  most: number,
): number | null {
  const at = (y * width + x) * 4 + channel;
  let best = own;
  for (const [room, stride] of [
    [Math.min(x, width - 1 - x), 4],
    [Math.min(y, height - 1 - y), width * 4],
  ] as const) {
    let sum = own;
    let count = 1;
    // As far to either side: a mean of one side alone would lean.
    for (let step = bandStep; step <= Math.min(room, bandReach); step += bandStep) {
      const before = data[at - step * stride] ?? 0;
      const behind = data[at + step * stride] ?? 0;
      if (Math.abs(before - own) > most || Math.abs(behind - own) > most) return null;
      sum += before + behind;
      count += 2;
    }
    const mean = sum / count;
    if (Math.abs(mean - own) > Math.abs(best - own)) best = mean;
  }
  return best;
}
