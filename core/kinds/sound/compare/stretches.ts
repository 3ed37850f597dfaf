import { blockSeconds, type BlockSums } from './block-sums.ts';
import { loudnessWords, type MixtureFit } from './mixture.ts';
import { rangeText, timeText } from './times.ts';

/** A stretch in which a sound is other than the rest of it says, in frames of the newer one. */
export interface Stretch {
  from: number;
  to: number;
  words: string;
  /** Whether what is there is the older one's, louder or quieter. */
  isGain: boolean;
}

/** Blocks that are nearer to one another belong together. */
const gapBlocks = 2;
/** Quieter than this is silence, in power: -75 dBFS. */
export const silentPower = 10 ** -7.5;
/** Less is not heard as a difference, in full scale: two steps of 16 bits. */
const leastStep = 6.2e-5;

/** Stretches that a mixture does not tell, to the frame, and what is there instead. */
export function stretchesOf(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  shiftFrames: number,
  sums: BlockSums,
  fit: MixtureFit,
  sampleRate: number,
): Stretch[] {
  const { from, to, blockFrames } = sums;
  const ranges: { first: number; last: number }[] = [];
  fit.isTold.forEach((isTold, block) => {
    if (isTold) return;
    const open = ranges.at(-1);
    if (open && block - open.last <= gapBlocks) open.last = block;
    else ranges.push({ first: block, last: block });
  });
  const leftAt = (frame: number): number => {
    let most = 0;
    for (const [output, samples] of now.entries()) {
      const factors = fit.mixture[output];
      if (!factors) continue;
      let said = factors[old.length] ?? 0;
      for (let input = 0; input < old.length; input++)
        said += (factors[input] ?? 0) * (old[input]?.[frame - shiftFrames] ?? 0);
      most = Math.max(most, Math.abs((samples[frame] ?? 0) - said));
    }
    return most;
  };
  return ranges.map(({ first, last }) => {
    // The blocks around may hold its ends.
    let begin = Math.max(from, from + (first - 1) * blockFrames);
    let end = Math.min(to, from + (last + 2) * blockFrames);
    while (begin < end - 1 && leftAt(begin) <= leastStep) begin++;
    while (end > begin + 1 && leftAt(end - 1) <= leastStep) end--;
    return {
      from: begin,
      to: end,
      ...natureOf(old, now, shiftFrames, fit, { begin, end, from, to }, { first, last }, sampleRate),
    };
  });
}

function natureOf(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  shiftFrames: number,
  fit: MixtureFit,
  { begin, end, from, to }: { begin: number; end: number; from: number; to: number },
  { first, last }: { first: number; last: number },
  sampleRate: number,
): { words: string; isGain: boolean } {
  const seconds = (end - begin) / sampleRate;
  const range = { from: begin / sampleRate, to: end / sampleRate };
  const isFirst = begin - from < sampleRate * blockSeconds;
  const isLast = to - end < sampleRate * blockSeconds;
  const where = isFirst
    ? `in its first ${timeText(seconds)}`
    : isLast
      ? `in its last ${timeText(seconds)}`
      : rangeText(range);
  const [then, is] = [powerOf(old, begin - shiftFrames, end - shiftFrames), powerOf(now, begin, end)];
  if (is < silentPower && then > is * 10) return { words: `silent ${where}`, isGain: false };
  if (then < silentPower && is > then * 10)
    return { words: `something new ${where}, where it was silent`, isGain: false };
  // Each block by its own gain.
  const gains: number[] = [];
  let [left, all] = [0, 0];
  for (let block = first; block <= last; block++) {
    const energies = fit.energies[block];
    if (!energies || energies.said <= 0) continue;
    const gain = energies.both / energies.said;
    gains.push(gain);
    left += Math.max(0, energies.there - gain * energies.both);
    all += energies.there;
  }
  if (gains.length > 1 && left < all * 10 ** -2.5) {
    const [least, most] = [Math.min(...gains), Math.max(...gains)];
    const [head = 1, tail = 1] = [gains[0], gains.at(-1)];
    if (isFirst && head < 0.25 && tail > 0.75 && isRising(gains))
      return { words: `fading in over ${timeText(seconds)}`, isGain: true };
    if (isLast && head > 0.75 && tail < 0.25 && isRising([...gains].reverse()))
      return { words: `fading out over ${timeText(seconds)}`, isGain: true };
    const decibels = 20 * Math.log10(Math.max(1e-4, Math.abs(median(gains))));
    if (most - least < 0.1 * Math.max(Math.abs(most), 0.1) || gains.length < 6)
      return median(gains) < 0 && Math.abs(decibels) < 0.1
        ? { words: `of the other polarity ${where}`, isGain: true }
        : { words: `${loudnessWords(decibels)} ${where}`, isGain: true };
    return { words: `of other loudness ${where}`, isGain: true };
  }
  return { words: seconds < 0.02 ? `a click at ${timeText(range.from)}` : `other ${where}`, isGain: false };
}

function isRising(values: readonly number[]): boolean {
  let falls = 0;
  for (let at = 1; at < values.length; at++) if ((values[at] ?? 0) < (values[at - 1] ?? 0) - 0.02) falls++;
  return falls <= values.length * 0.1;
}

function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;
}

export function powerOf(channels: readonly Float32Array[], from: number, to: number): number {
  let energy = 0;
  for (const samples of channels)
    for (let at = Math.max(0, from); at < Math.min(samples.length, to); at++)
      energy += (samples[at] ?? 0) ** 2;
  return energy / Math.max(1, (to - from) * channels.length);
}

/** Whether a sound is louder than silence, which most show within their first samples. */
export function isHeard(channels: readonly Float32Array[]): boolean {
  const enough = silentPower * channels.reduce((sum, { length }) => sum + length, 0);
  let energy = 0;
  for (const samples of channels)
    for (let at = 0; at < samples.length; at++) {
      energy += (samples[at] ?? 0) ** 2;
      if (energy > enough) return true;
    }
  return false;
}

/** At most three stretches in words, the rest counted. */
export function describeStretches(stretches: readonly Stretch[]): string[] {
  if (stretches.length <= 3) return stretches.map(({ words }) => words);
  const [first] = stretches;
  return [`other in ${stretches.length.toLocaleString('en')} stretches, the first ${first?.words ?? ''}`];
}
