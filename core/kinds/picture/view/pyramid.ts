import type { Pixels } from '../picture.ts';

/** A picture and its halves, down to a few pixels: what is drawn small is drawn from means, not from single pixels. */
export function pyramidOf(pixels: Pixels): Pixels[] {
  const levels = [pixels];
  for (let last = pixels; Math.max(last.width, last.height) > 64; levels.push(last)) last = halved(last);
  return levels;
}

/** Means of two by two, weighed by alpha, so that what nobody sees colours nothing. */
export function halved({ width, height, data }: Pixels): Pixels {
  const [wide, high] = [Math.max(1, width >> 1), Math.max(1, height >> 1)];
  const half = new (data.constructor as new (length: number) => typeof data)(wide * high * 4);
  const isWhole = !(data instanceof Float32Array);
  for (let y = 0; y < high; y++) {
    const below = Math.min(height - 1, y * 2 + 1);
    for (let x = 0; x < wide; x++) {
      const right = Math.min(width - 1, x * 2 + 1);
      const a = (y * 2 * width + x * 2) * 4;
      const b = (y * 2 * width + right) * 4;
      const c = (below * width + x * 2) * 4;
      const d = (below * width + right) * 4;
      const [wa, wb, wc, wd] = [data[a + 3] ?? 0, data[b + 3] ?? 0, data[c + 3] ?? 0, data[d + 3] ?? 0];
      const sum = wa + wb + wc + wd;
      const to = (y * wide + x) * 4;
      const round = isWhole ? 0.5 : 0;
      for (let channel = 0; channel < 3; channel++) {
        const [pa, pb, pc, pd] = [
          data[a + channel] ?? 0,
          data[b + channel] ?? 0,
          data[c + channel] ?? 0,
          data[d + channel] ?? 0,
        ];
        half[to + channel] =
          sum > 0 ? (pa * wa + pb * wb + pc * wc + pd * wd) / sum + round : (pa + pb + pc + pd) / 4 + round;
      }
      half[to + 3] = sum / 4 + round;
    }
  }
  return { width: wide, height: high, data: half };
}
