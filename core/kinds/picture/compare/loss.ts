import type { Raster } from '../../reading.ts';

/** Side of the blocks that are judged one by one: packing with loss keeps the mean of each nearly as it was. */
const side = 8;

/** A block may shift by so much as a whole, in 255ths, or by six tenths of what its pixels do. */
const mostShift = 6;

/** Less than this, in 255ths, is how colours are rounded when brightness and colour are parted. */
const leastLean = 1.6;

/** What loss leaves hangs on how much there is to lose: a step may be so much, and so much of the contrast around it. */
const mostMeanStep = { base: 6, ofContrast: 0.3 };
const mostStep = { base: 16, ofContrast: 0.8 };

/**
 * Whether no more differs than packing with loss leaves: steps everywhere that cancel out within small blocks, no pixel that
 * stands out of its block, and no lean to one side. A change that somebody made is in one place, or goes in one direction.
 * In doubt it is a change: what is folded away as noise must not hide one.
 * @param similarity mean SSIM of the two
 * @param worst places of tiles of 16 pixels that differ most: looked at first
 */
export function isOnlyLoss(old: Raster, now: Raster, similarity: number, worst: readonly Place[]): boolean {
  if (similarity < 0.75) return false;
  const { width, height } = now;
  const contrastAt = contrastFinder(old);
  // Where most differs a change shows first.
  for (const { x, y } of worst)
    for (let top = y; top < Math.min(height, y + contrastSide); top += side)
      for (let left = x; left < Math.min(width, x + contrastSide); left += side)
        if (!judgeBlock(old, now, left, top, contrastAt)) return false;
  let [blocks, touched] = [0, 0];
  // Blocks that went up and down as a whole, by channel.
  const ups = new Int32Array(3);
  const downs = new Int32Array(3);
  for (let top = 0; top < height; top += side)
    for (let left = 0; left < width; left += side) {
      blocks++;
      if (!judgeBlock(old, now, left, top, contrastAt)) return false;
      if (judged.mean === 0) continue;
      touched++;
      for (let channel = 0; channel < 3; channel++) {
        const shift = judged.shifts[channel] ?? 0;
        if (Math.abs(shift) < leastLean || Math.abs(shift) < judged.mean * 0.7) continue;
        const lean = shift > 0 ? ups : downs;
        lean[channel] = (lean[channel] ?? 0) + 1;
      }
    }
  // Loss is nearly everywhere; a few blocks are a place.
  if (touched < blocks / 8) return false;
  return ups.every((up, channel) => {
    const down = downs[channel] ?? 0;
    return up + down < blocks / 12 || Math.max(up, down) < (up + down) * 0.8;
  });
}

export interface Place {
  x: number;
  y: number;
}

/** Of the block that was judged last: its mean step, and how far each channel went as a whole. */
const judged = { mean: 0, shifts: new Float64Array(3) };

/** @returns whether no more differs in a block than loss leaves */
function judgeBlock(
  old: Raster,
  now: Raster,
  left: number,
  top: number,
  contrastAt: (x: number, y: number) => number,
): boolean {
  const { width, height } = now;
  const bottom = Math.min(height, top + side);
  const right = Math.min(width, left + side);
  let reds = 0;
  let greens = 0;
  let blues = 0;
  let stepSum = 0;
  let greatest = 0;
  for (let y = top; y < bottom; y++)
    for (let at = (y * width + left) * 4, end = (y * width + right) * 4; at < end; at += 4) {
      const red = (now.rgba[at] ?? 0) - (old.rgba[at] ?? 0);
      const green = (now.rgba[at + 1] ?? 0) - (old.rgba[at + 1] ?? 0);
      const blue = (now.rgba[at + 2] ?? 0) - (old.rgba[at + 2] ?? 0);
      const alpha = (now.rgba[at + 3] ?? 0) - (old.rgba[at + 3] ?? 0);
      const step = Math.max(Math.abs(red), Math.abs(green), Math.abs(blue), Math.abs(alpha));
      reds += red;
      greens += green;
      blues += blue;
      stepSum += step;
      if (step > greatest) greatest = step;
    }
  const pixels = (bottom - top) * (right - left);
  const mean = stepSum / pixels;
  judged.mean = mean;
  if (stepSum === 0) return true;
  if (mean > mostMeanStep.base || greatest > mostStep.base) {
    const contrast = contrastAt(left, top);
    if (mean > mostMeanStep.base + mostMeanStep.ofContrast * contrast) return false;
    if (greatest > mostStep.base + mostStep.ofContrast * contrast) return false;
  }
  judged.shifts[0] = reds / pixels;
  judged.shifts[1] = greens / pixels;
  judged.shifts[2] = blues / pixels;
  const shift = Math.max(Math.abs(reds), Math.abs(greens), Math.abs(blues)) / pixels;
  return shift <= mostShift || shift <= mean * 0.6;
}

/** Colour is packed in areas twice as wide as brightness is. */
const contrastSide = 16;

/** The widest range of a channel in the area of 16 x 16 pixels that a place is in; each area is looked at once. */
function contrastFinder({ width, height, rgba }: Raster): (x: number, y: number) => number {
  const across = Math.ceil(width / contrastSide);
  const known = new Int16Array(across * Math.ceil(height / contrastSide)).fill(-1);
  const lows = new Uint8Array(4);
  const highs = new Uint8Array(4);
  return (x, y) => {
    const tile = (y >> 4) * across + (x >> 4);
    const before = known[tile] ?? -1;
    if (before >= 0) return before;
    lows.fill(255);
    highs.fill(0);
    const [left, top] = [x & ~15, y & ~15];
    for (let row = top; row < Math.min(height, top + contrastSide); row++)
      for (
        let at = (row * width + left) * 4;
        at < (row * width + Math.min(width, left + contrastSide)) * 4;
        at++
      ) {
        const value = rgba[at] ?? 0;
        if (value < (lows[at & 3] ?? 0)) lows[at & 3] = value;
        if (value > (highs[at & 3] ?? 0)) highs[at & 3] = value;
      }
    let widest = 0;
    for (let channel = 0; channel < 4; channel++)
      widest = Math.max(widest, (highs[channel] ?? 0) - (lows[channel] ?? 0));
    known[tile] = widest;
    return widest;
  };
}
