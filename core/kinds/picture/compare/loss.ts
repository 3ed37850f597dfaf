import type { Raster } from '../../reading.ts';

/** Side of the blocks that are judged one by one: packing with loss keeps the mean of each nearly as it was. */
const side = 8;

/** A block may shift by so much as a whole, in 255ths, or by half of what its pixels do. */
const mostShift = 4.5;

/** What loss leaves hangs on how much there is to lose: a step may be so much, and so much of the contrast around it. */
const mostMeanStep = { base: 6, ofContrast: 0.3 };
const mostStep = { base: 16, ofContrast: 0.8 };

/**
 * Whether no more differs than packing with loss leaves: steps everywhere that cancel out within small blocks, no pixel that
 * stands out of its block, and no lean to one side. A change that somebody made is in one place, or goes in one direction.
 * In doubt it is a change: what is folded away as noise must not hide one.
 * @param similarity mean SSIM of the two
 */
export function isOnlyLoss(old: Raster, now: Raster, similarity: number): boolean {
  if (similarity < 0.75) return false;
  const { width, height } = now;
  const contrasts = contrastsOf(old);
  const tilesAcross = Math.ceil(width / contrastSide);
  let [blocks, touched] = [0, 0];
  // Blocks that went up and down as a whole, by channel.
  const ups = new Int32Array(3);
  const downs = new Int32Array(3);
  for (let top = 0; top < height; top += side)
    for (let left = 0; left < width; left += side) {
      const bottom = Math.min(height, top + side);
      const right = Math.min(width, left + side);
      const pixels = (bottom - top) * (right - left);
      const sums: [number, number, number] = [0, 0, 0];
      let [stepSum, greatest] = [0, 0];
      for (let y = top; y < bottom; y++)
        for (let at = (y * width + left) * 4; at < (y * width + right) * 4; at += 4) {
          const red = (now.rgba[at] ?? 0) - (old.rgba[at] ?? 0);
          const green = (now.rgba[at + 1] ?? 0) - (old.rgba[at + 1] ?? 0);
          const blue = (now.rgba[at + 2] ?? 0) - (old.rgba[at + 2] ?? 0);
          const alpha = (now.rgba[at + 3] ?? 0) - (old.rgba[at + 3] ?? 0);
          const step = Math.max(Math.abs(red), Math.abs(green), Math.abs(blue), Math.abs(alpha));
          sums[0] += red;
          sums[1] += green;
          sums[2] += blue;
          stepSum += step;
          if (step > greatest) greatest = step;
        }
      blocks++;
      if (stepSum === 0) continue;
      touched++;
      const mean = stepSum / pixels;
      const contrast = contrasts[(top >> 4) * tilesAcross + (left >> 4)] ?? 0;
      if (mean > mostMeanStep.base + mostMeanStep.ofContrast * contrast) return false;
      if (greatest > mostStep.base + mostStep.ofContrast * contrast) return false;
      for (const [channel, sum] of sums.entries()) {
        const shift = sum / pixels;
        if (Math.abs(shift) > mostShift && Math.abs(shift) > mean / 2) return false;
        if (Math.abs(shift) < 0.8 || Math.abs(shift) < mean * 0.7) continue;
        const side = shift > 0 ? ups : downs;
        side[channel] = (side[channel] ?? 0) + 1;
      }
    }
  // Loss is nearly everywhere; a few blocks are a place.
  if (touched < blocks / 8) return false;
  return ups.every((up, channel) => {
    const down = downs[channel] ?? 0;
    return up + down < blocks / 12 || Math.max(up, down) < (up + down) * 0.8;
  });
} // prettier-ignore

/** Colour is packed in areas twice as wide as brightness is. */
const contrastSide = 16;

/** The widest range of a channel in each area of 16 x 16 pixels. */
function contrastsOf({ width, height, rgba }: Raster): Uint8Array {
  const across = Math.ceil(width / contrastSide);
  const lows = new Uint8Array(across * Math.ceil(height / contrastSide) * 4).fill(255);
  const highs = new Uint8Array(lows.length);
  for (let y = 0, at = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let channel = 0, to = ((y >> 4) * across + (x >> 4)) * 4; channel < 4; channel++, at++, to++) {
        const value = rgba[at] ?? 0;
        if (value < (lows[to] ?? 0)) lows[to] = value;
        if (value > (highs[to] ?? 0)) highs[to] = value;
      }
  return Uint8Array.from({ length: lows.length / 4 }, (_, tile) => {
    let widest = 0;
    for (let to = tile * 4; to < tile * 4 + 4; to++) widest = Math.max(widest, (highs[to] ?? 0) - (lows[to] ?? 0));
    return widest;
  });
} // prettier-ignore
