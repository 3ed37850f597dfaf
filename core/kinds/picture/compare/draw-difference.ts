import { previewSize, type Raster } from '../../reading.ts';
import { shrink } from '../shrink.ts';
import { stretch } from '../stretch.ts';

/** What differs is drawn in this colour, the stronger the more; all else is the older picture, grey and pale. */
const ink = [196, 72, 32] as const;

/** A small picture of what differs between two pictures of one size. */
export function drawDifference(old: Raster, now: Raster): Raster {
  const before = small(old);
  const after = stretch(now, before.width, before.height);
  // What is thin would vanish in the mean: the greatest step within an area is what counts.
  const steps = greatestSteps(old, now, before.width, before.height);
  const rgba = new Uint8Array(before.rgba.length);
  for (let pixel = 0, at = 0; at < rgba.length; pixel++, at += 4) {
    const grey = 0.2126 * (before.rgba[at] ?? 0) + 0.7152 * (before.rgba[at + 1] ?? 0) + 0.0722 * (before.rgba[at + 2] ?? 0);
    const step = steps[pixel] ?? 0;
    const strength = step === 0 ? 0 : Math.min(1, 0.35 + step / 96);
    for (let channel = 0; channel < 3; channel++)
      rgba[at + channel] = (170 + grey * 0.3) * (1 - strength) + (ink[channel] ?? 0) * strength;
    const cover = Math.max(before.rgba[at + 3] ?? 0, after.rgba[at + 3] ?? 0) / 255;
    rgba[at + 3] = 255 * Math.max(strength, 0.25 + 0.75 * cover);
  }
  return { width: before.width, height: before.height, rgba };
} // prettier-ignore

function small({ width, height, rgba }: Raster): Raster {
  return shrink({ width, height, data: rgba }, previewSize);
}

function greatestSteps(old: Raster, now: Raster, width: number, height: number): Uint8Array {
  const steps = new Uint8Array(width * height);
  for (let y = 0, at = 0; y < now.height; y++) {
    const row = Math.min(height - 1, Math.floor((y * height) / now.height)) * width;
    for (let x = 0; x < now.width; x++, at += 4) {
      let step = 0;
      for (let channel = 0; channel < 4; channel++)
        step = Math.max(step, Math.abs((old.rgba[at + channel] ?? 0) - (now.rgba[at + channel] ?? 0)));
      if (step === 0) continue;
      const to = row + Math.min(width - 1, Math.floor((x * width) / now.width));
      if (step > (steps[to] ?? 0)) steps[to] = step;
    }
  }
  return steps;
}
