import type { Raster } from '../reading.ts';

/** A picture at another size whatever its shape: each pixel the mean of the area that it stands for. */
export function stretch({ width, height, rgba }: Raster, toWidth: number, toHeight: number): Raster {
  const result = new Uint8Array(toWidth * toHeight * 4);
  for (let y = 0; y < toHeight; y++) {
    const [top, bottom] = span(y, toHeight, height);
    for (let x = 0; x < toWidth; x++) {
      const [left, right] = span(x, toWidth, width);
      const count = (bottom - top) * (right - left);
      let [red, green, blue, alpha] = [0, 0, 0, 0];
      for (let row = top; row < bottom; row++)
        for (let at = (row * width + left) * 4; at < (row * width + right) * 4; at += 4) {
          red += rgba[at] ?? 0;
          green += rgba[at + 1] ?? 0;
          blue += rgba[at + 2] ?? 0;
          alpha += rgba[at + 3] ?? 0;
        }
      const to = (y * toWidth + x) * 4;
      result[to] = red / count;
      result[to + 1] = green / count;
      result[to + 2] = blue / count;
      result[to + 3] = alpha / count;
    }
  }
  return { width: toWidth, height: toHeight, rgba: result };
}

function span(part: number, parts: number, size: number): [number, number] {
  const from = Math.min(size - 1, Math.floor((part * size) / parts));
  return [from, Math.max(from + 1, Math.floor(((part + 1) * size) / parts))];
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
