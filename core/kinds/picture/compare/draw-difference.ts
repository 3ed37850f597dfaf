import type { Raster } from '../../reading.ts';

/** What differs is drawn in this colour, the stronger the more; all else is the older picture, grey and pale. */
const ink = [196, 72, 32] as const;

/**
 * A small picture of what differs between two pictures of one size.
 * @param old the older one, made smaller, and `now` the newer one by the same factor
 * @param steps greatest step in each of their pixels: what is thin would vanish in the mean
 */
export function drawDifference(old: Raster, now: Raster, steps: Uint8Array): Raster {
  const rgba = new Uint8Array(old.rgba.length);
  for (let pixel = 0, at = 0; at < rgba.length; pixel++, at += 4) {
    const grey =
      0.2126 * (old.rgba[at] ?? 0) + 0.7152 * (old.rgba[at + 1] ?? 0) + 0.0722 * (old.rgba[at + 2] ?? 0);
    const step = steps[pixel] ?? 0;
    const strength = step === 0 ? 0 : Math.min(1, 0.35 + step / 96);
    for (let channel = 0; channel < 3; channel++)
      rgba[at + channel] = (170 + grey * 0.3) * (1 - strength) + (ink[channel] ?? 0) * strength;
    const cover = Math.max(old.rgba[at + 3] ?? 0, now.rgba[at + 3] ?? 0) / 255;
    rgba[at + 3] = 255 * Math.max(strength, 0.25 + 0.75 * cover);
  }
  return { width: old.width, height: old.height, rgba };
}
