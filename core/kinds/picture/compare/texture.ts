import type { Raster } from '../../reading.ts';
import { stretch } from '../stretch.ts';
import { brightnessOf } from './structural-similarity.ts';
import { correlationOf } from './exact-relation.ts';

/** Mean of how far a pixel is from the mean of its four neighbours, in 255ths: the finest detail. */
export function detailOf(brightness: Uint8Array, width: number): number {
  const height = Math.floor(brightness.length / width);
  let [sum, count] = [0, 0];
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x;
      sum += Math.abs(
        4 * (brightness[at] ?? 0) -
          (brightness[at - 1] ?? 0) -
          (brightness[at + 1] ?? 0) -
          (brightness[at - width] ?? 0) -
          (brightness[at + width] ?? 0),
      );
      count++;
    }
  return count === 0 ? 0 : sum / count / 4;
}

export interface TextureChange {
  kind: 'softer' | 'sharper' | 'noise' | 'fewer colours';
  words: string;
}

/** So much of the finest detail is left, at the most, where it was blurred; packing with loss leaves more. */
const [softShare, sharpShare] = [0.92, 1.35];
/** Less detail than this is no detail: it comes and goes with rounding. */
const leastDetail = 0.3;

/** What was done to the detail of a picture of which all else is as it was; null where nothing of that kind. */
export function textureChange(old: Raster, now: Raster): TextureChange | null {
  const colours = fewColours(old, now);
  if (colours !== null) return { kind: 'fewer colours', words: `the same picture in ${colours} colours` };
  const [before, after] = [brightnessOf(old), brightnessOf(now)];
  const likeness = correlationOf(before, after);
  if (likeness < 0.4) return null;
  const [detail, newDetail] = [detailOf(before, old.width), detailOf(after, now.width)];
  const noise = noiseOf(before, after, now.width, now.height);
  if (noise !== null && newDetail > detail * 1.1)
    return {
      kind: 'noise',
      words: `the same picture with noise on it, ${noise.toFixed(1)} of 255 in the mean`,
    };
  // Where most of a picture is fine detail, what is left of it is alike only from afar.
  const isAlike = likeness >= 0.93 || (likeness > 0.5 && correlationOf(...fromAfar(old, now)) > 0.95);
  if (Math.max(detail, newDetail) < leastDetail || !isAlike) return null;
  // What was made darker has less of everything.
  const share = newDetail / Math.max(0.01, detail * (likeness >= 0.93 ? contrastGain(before, after) : 1));
  if (share < softShare)
    return {
      kind: 'softer',
      words: `the same picture, softer: ${Math.round(share * 100)} % of its finest detail is left`,
    };
  if (share > sharpShare && likeness > 0.95)
    return {
      kind: 'sharper',
      words: `the same picture, sharper: ${share.toFixed(1)} times its finest detail`,
    };
  return null;
}

function fromAfar(old: Raster, now: Raster): [Uint8Array, Uint8Array] {
  const side = Math.max(4, Math.min(24, now.width >> 2, now.height >> 2));
  return [brightnessOf(stretch(old, side, side)), brightnessOf(stretch(now, side, side))];
}

/** By how much the contrast of the whole changed. */
function contrastGain(before: Uint8Array, after: Uint8Array): number {
  const spread = (values: Uint8Array): number => {
    let [sum, squares] = [0, 0];
    for (const value of values) {
      sum += value;
      squares += value * value;
    }
    return Math.sqrt(Math.max(0, squares / values.length - (sum / values.length) ** 2));
  };
  return Math.max(0.05, spread(after)) / Math.max(0.05, spread(before));
}

/** A picture that was reduced to some colours; null where it was not, or had as few. */
function fewColours(old: Raster, now: Raster): number | null {
  const most = 256;
  const count = (rgba: Uint8Array, limit: number): number => {
    const seen = new Set<number>();
    for (let at = 0; at < rgba.length && seen.size <= limit; at += 4)
      seen.add(((rgba[at] ?? 0) << 16) | ((rgba[at + 1] ?? 0) << 8) | (rgba[at + 2] ?? 0));
    return seen.size;
  };
  const left = count(now.rgba, most);
  if (left > most || left < 2) return null;
  if (count(old.rgba, left * 4) <= left * 4) return null;
  const greys = correlationOf(brightnessOf(old), brightnessOf(now));
  return greys > 0.7 ? left : null;
}

/** Mean step of what was added, where that is as strong everywhere and no pixel follows its neighbour; null where it is not. */
function noiseOf(before: Uint8Array, after: Uint8Array, width: number, height: number): number | null {
  const residual = Int16Array.from(after, (value, at) => value - (before[at] ?? 0));
  let [sum, squares, neighbours, steps, count] = [0, 0, 0, 0, 0];
  const tile = 32;
  const energies: number[] = [];
  for (let top = 0; top + tile <= height; top += tile)
    for (let left = 0; left + tile <= width; left += tile) {
      let energy = 0;
      for (let y = top; y < top + tile; y++)
        for (let x = left; x < left + tile - 1; x++) {
          const [value, next] = [residual[y * width + x] ?? 0, residual[y * width + x + 1] ?? 0];
          sum += value;
          squares += value * value;
          neighbours += value * next;
          steps += Math.abs(value);
          energy += value * value;
          count++;
        }
      energies.push(energy);
    }
  if (count === 0 || squares === 0 || steps / count < 1.5) return null;
  const mean = sum / count;
  const variance = squares / count - mean * mean;
  energies.sort((a, b) => a - b);
  const [low, high] = [
    energies[energies.length >> 3] ?? 0,
    energies[Math.floor(energies.length * 0.875)] ?? 1,
  ];
  // Where it is dark or bright noise is cut off at the ends.
  const isEven = low > high * 0.25;
  return Math.abs(neighbours / count - mean * mean) < variance * 0.3 && isEven ? steps / count : null;
}
