import { lagOf, patternDifference, patternOf, type Pattern, type PatternDifference } from './pattern.ts';
import type { SoundSide } from './explanation.ts';
import type { Band, FilterWords, Transfer } from './spectra.ts';

/** Packing with loss leaves this much between the bands of two sounds that are the same to hear. */
const lossResidual = 2.5;
const lossLikeness = 0.95;
const surelyCoherent = 0.97;
/** Packers leave out what is above this, to save; below it, that is a filter (common practice, no published source). */
const lowestCutHertz = 10_000;
/** A band is even within so many decibels. */
const evenDecibels = 1.2;
/** A stretch differs where what is heard is so many decibels off in the mean of a tenth of a second, for as long. */
const otherResidual = 3;
const shortestRange = 0.1;

interface Heard {
  channels: readonly Float32Array[];
  sampleRate: number;
  frames: number;
}

export interface Loss {
  /** Stretches that are more than loss, in seconds of the newer one. */
  ranges: { from: number; to: number }[];
  /** Where the newer one was cut off, lower than packers do; null where it was not. */
  cutHertz: number | null;
}

/** Whether two sounds are one but for what packing with loss leaves; null where they are not. */
export function lossOf(
  old: Heard,
  now: Heard,
  shiftFrames: number,
  { cutHertz }: FilterWords,
  transfer: Transfer,
  bands: readonly Band[],
): Loss | null {
  const stepSeconds = stepOf(Math.max(old.frames / old.sampleRate, now.frames / now.sampleRate));
  const [before, after] = [
    knownPattern(old.channels, old.sampleRate, stepSeconds),
    knownPattern(now.channels, now.sampleRate, stepSeconds),
  ];
  const lag = Math.round(shiftFrames / now.sampleRate / stepSeconds);
  const difference = patternDifference(before, after, lag);
  // What follows by an even filter needs no other evidence.
  const isCoherent = transfer.coherent > surelyCoherent;
  if (difference.overlap === 0 || (!isCoherent && difference.likeness < lossLikeness)) return null;
  const heard = [...difference.residuals].filter((value) => !Number.isNaN(value));
  const mean = heard.reduce((sum, value) => sum + value, 0) / Math.max(1, heard.length);
  const ranges = rangesOf(difference, stepSeconds);
  if (!isCoherent && mean > lossResidual && ranges.length === 0) return null;
  // What is packed with loss still swings as it did; what only sounds much the same does not.
  if (transfer.coherent < 0.55) return null;
  const nyquist = Math.min(old.sampleRate, now.sampleRate) / 2;
  const highest = Math.min(lowestCutHertz, nyquist * 0.85, cutHertz ?? Infinity);
  const middle = bands.filter(({ hertz, levelDecibels }) => hertz < highest * 0.8 && levelDecibels > -40);
  const sorted = middle.map(({ decibels }) => decibels).sort((a, b) => a - b);
  const median = sorted[sorted.length >> 1] ?? 0;
  const isEven = middle.every(
    ({ decibels, coherent }) => Math.abs(decibels - median) < evenDecibels + (1 - coherent) * 12,
  );
  if (!isEven) return null;
  const isCut = cutHertz !== null && cutHertz < Math.min(lowestCutHertz, nyquist * 0.85);
  return { ranges, cutHertz: isCut ? cutHertz : null };
}

const patterns = new WeakMap<readonly Float32Array[], Pattern>();

/** The pattern of some channels, made once: it is asked for where they lie, and again for what loss left of them. */
function knownPattern(channels: readonly Float32Array[], sampleRate: number, stepSeconds: number): Pattern {
  const known = patterns.get(channels);
  if (known?.stepSeconds === stepSeconds) return known;
  const pattern = patternOf(channels, sampleRate, stepSeconds);
  patterns.set(channels, pattern);
  return pattern;
}

/** Longer sounds are looked at less closely. */
function stepOf(seconds: number): number {
  return seconds > 120 ? 0.05 : seconds > 40 ? 0.02 : 0.01;
}

/** Where the newer one lies on the older one, roughly, in seconds; and how alike they are to hear. */
export function heardLikeness(old: SoundSide, now: SoundSide): { lagSeconds: number; likeness: number } {
  const seconds = Math.max(old.sound.frames / old.sound.sampleRate, now.sound.frames / now.sound.sampleRate);
  const stepSeconds = stepOf(seconds);
  const before = knownPattern(old.channels, old.sound.sampleRate, stepSeconds);
  const after = knownPattern(now.channels, now.sound.sampleRate, stepSeconds);
  const lag = lagOf(before, after);
  return { lagSeconds: lag * stepSeconds, likeness: patternDifference(before, after, lag).likeness };
}

/** Stretches in which what is left over is heard, in seconds of the newer one. */
function rangesOf({ residuals }: PatternDifference, stepSeconds: number): { from: number; to: number }[] {
  const ranges: { from: number; to: number }[] = [];
  const gap = Math.round(0.15 / stepSeconds);
  let [start, last] = [-1, -1];
  const close = (): void => {
    if (start >= 0 && (last + 1 - start) * stepSeconds >= shortestRange)
      ranges.push({ from: start * stepSeconds, to: (last + 1) * stepSeconds });
    start = -1;
  };
  const half = Math.max(1, Math.round(shortestRange / 2 / stepSeconds));
  residuals.forEach((_, step) => {
    const around = residuals
      .subarray(Math.max(0, step - half), step + half + 1)
      .filter((value) => !Number.isNaN(value));
    const mean = around.reduce((sum, value) => sum + value, 0) / Math.max(1, around.length);
    if (mean > otherResidual) {
      if (start < 0) start = step;
      last = step;
    } else if (start >= 0 && step - last > gap) close();
  });
  close();
  return ranges;
}
