import type { Raster } from '../reading.ts';
import { words } from './words.ts';

/**
 * A picture made smaller by a whole factor, so that it fits into a square: each pixel is the plain mean of the middle row of
 * its block, alpha like the others. For looking at a large picture as a whole many times over.
 */
export function reduce(raster: Raster, most: number): Raster {
  const { width, height, rgba } = raster;
  const factor = Math.ceil(Math.max(width, height) / most);
  if (factor <= 1) return raster;
  const toWidth = Math.ceil(width / factor);
  const toHeight = Math.ceil(height / factor);
  const result = new Uint8Array(toWidth * toHeight * 4);
  const pixels = words(rgba);
  for (let y = 0, to = 0; y < toHeight; y++) {
    // One row of each block stands for all of it: all its pixels took three times as long.
    let at = Math.min(height - 1, y * factor + (factor >> 1)) * width;
    for (let x = 0; x < width; to += 4) {
      let red = 0;
      let green = 0;
      let blue = 0;
      let alpha = 0;
      const end = Math.min(width, x + factor);
      const share = 1 / (end - x);
      for (; x < end; x++, at++) {
        const pixel = pixels[at] ?? 0;
        red += pixel & 255;
        green += (pixel >>> 8) & 255;
        blue += (pixel >>> 16) & 255;
        alpha += pixel >>> 24;
      }
      result[to] = (red * share + 0.5) | 0;
      result[to + 1] = (green * share + 0.5) | 0;
      result[to + 2] = (blue * share + 0.5) | 0;
      result[to + 3] = (alpha * share + 0.5) | 0;
    }
  }
  return { width: toWidth, height: toHeight, rgba: result };
}
