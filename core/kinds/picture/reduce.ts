import type { Raster } from '../reading.ts';

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
  const sums = new Int32Array(toWidth * 4);
  for (let y = 0; y < toHeight; y++) {
    sums.fill(0);
    const bottom = Math.min(height, (y + 1) * factor);
    // One row of each block stands for all of it: all its pixels took three times as long.
    const every = factor;
    let rows = 0;
    for (let row = Math.min(bottom - 1, y * factor + (factor >> 1)); row < bottom; row += every) {
      rows++;
      let at = row * width * 4;
      for (let x = 0, to = 0; x < width; to += 4) {
        // Taken apart from a list they would be a list each time.
        let red = 0;
        let green = 0;
        let blue = 0;
        let alpha = 0;
        for (const end = Math.min(width, x + factor); x < end; x++, at += 4) {
          red += rgba[at] ?? 0;
          green += rgba[at + 1] ?? 0;
          blue += rgba[at + 2] ?? 0;
          alpha += rgba[at + 3] ?? 0;
        }
        sums[to] = (sums[to] ?? 0) + red;
        sums[to + 1] = (sums[to + 1] ?? 0) + green;
        sums[to + 2] = (sums[to + 2] ?? 0) + blue;
        sums[to + 3] = (sums[to + 3] ?? 0) + alpha;
      }
    }
    for (let x = 0; x < toWidth; x++) {
      const count = rows * (Math.min(width, (x + 1) * factor) - x * factor);
      for (let channel = 0; channel < 4; channel++) result[(y * toWidth + x) * 4 + channel] = (sums[x * 4 + channel] ?? 0) / count + 0.5;
    }
  }
  return { width: toWidth, height: toHeight, rgba: result };
} // prettier-ignore
