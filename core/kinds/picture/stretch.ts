import type { Raster } from '../reading.ts';

/**
 * A picture at another size whatever its shape: each pixel the mean of the area that it stands for, pixels at its edges by the
 * part of them that lies within, colours as far as they cover. What is mirrored before or after comes out the same.
 */
export function stretch({ width, height, rgba }: Raster, toWidth: number, toHeight: number): Raster {
  const result = new Uint8Array(toWidth * toHeight * 4);
  const columns = Array.from({ length: toWidth }, (_, x) => areaOf(x, toWidth, width));
  for (let y = 0; y < toHeight; y++) {
    const { first: top, weights: rowWeights } = areaOf(y, toHeight, height);
    for (let x = 0; x < toWidth; x++) {
      const { first: left, weights } = columns[x] ?? { first: 0, weights: [] };
      let [red, green, blue, alpha] = [0, 0, 0, 0];
      for (let row = 0; row < rowWeights.length; row++) {
        const rowWeight = rowWeights[row] ?? 0;
        let at = ((top + row) * width + left) * 4;
        for (let column = 0; column < weights.length; column++, at += 4) {
          const weight = rowWeight * (weights[column] ?? 0) * (rgba[at + 3] ?? 0);
          red += (rgba[at] ?? 0) * weight;
          green += (rgba[at + 1] ?? 0) * weight;
          blue += (rgba[at + 2] ?? 0) * weight;
          alpha += weight;
        }
      }
      const to = (y * toWidth + x) * 4;
      result[to + 3] = Math.round(alpha);
      if (alpha === 0) continue;
      result[to] = Math.round(red / alpha);
      result[to + 1] = Math.round(green / alpha);
      result[to + 2] = Math.round(blue / alpha);
    }
  }
  return { width: toWidth, height: toHeight, rgba: result };
}

/** Which pixels of `size` one of `parts` stands for, and how much each counts; together 1. */
function areaOf(part: number, parts: number, size: number): { first: number; weights: number[] } {
  const begin = (part * size) / parts;
  const end = ((part + 1) * size) / parts;
  const first = Math.min(size - 1, Math.floor(begin + 1e-9));
  const last = Math.max(first, Math.min(size, Math.ceil(end - 1e-9)) - 1);
  const weights: number[] = [];
  for (let at = first; at <= last; at++)
    weights.push((Math.min(end, at + 1) - Math.max(begin, at)) / (end - begin));
  return { first, weights };
}

/** A part of a picture. */
export function cut(
  { width, rgba }: Raster,
  box: { x: number; y: number; width: number; height: number },
): Raster {
  const result = new Uint8Array(box.width * box.height * 4);
  for (let row = 0; row < box.height; row++) {
    const from = ((box.y + row) * width + box.x) * 4;
    result.set(rgba.subarray(from, from + box.width * 4), row * box.width * 4);
  }
  return { width: box.width, height: box.height, rgba: result };
}
