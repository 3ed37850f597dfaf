import type { Nature } from '../../../../contract/comparisons.ts';
import type { DecodedSound } from '../decoded.ts';
import { mixtureOf, type BlockSums } from './block-sums.ts';
import { fitOf, type MixtureFit } from './mixture.ts';
import { timeText } from './times.ts';

/** What was done to a sound: told from evidence for each, never from what is left over. */
export interface Explanation {
  nature: Nature;
  words: string[];
  shiftSeconds: number;
  gainDecibels: number;
  /** Stretches of the newer one that are other, in seconds. */
  ranges: { from: number; to: number }[];
  /** Share of the newer one that is other, where that is not told by the ranges. */
  extent: number | null;
  /** What is left over, in decibels of the newer one; null where that says nothing. */
  leftDecibels: number | null;
}

export interface SoundSide {
  sound: DecodedSound;
  channels: readonly Float32Array[];
}

/** So much of the sound, by blocks, must be told by one mixture for the rest to be a change of its own. */
export const leastTold = 0.5;
/** A filter that stays the same tells so much of the power, at the least, of what was filtered. */
export const leastCoherent = 0.9;

export interface Context {
  old: SoundSide;
  now: SoundSide;
  /** The older one's channels at the newer one's rate. */
  before: readonly Float32Array[];
  shiftFrames: number;
  /** How well they fit at that shift. */
  alignment: number;
  sums: BlockSums;
  fit: MixtureFit;
  rate: number;
  isOneRate: boolean;
}

export function nothingKnown({ shiftFrames, rate }: Pick<Context, 'shiftFrames' | 'rate'>): Explanation {
  return {
    nature: 'other',
    words: [],
    shiftSeconds: shiftFrames / rate,
    gainDecibels: 0,
    ranges: [],
    extent: null,
    leftDecibels: null,
  };
}

const lossyCodings = /vorbis|opus|mp3|mpeg|aac|adpcm|law|module/i;

export function isLossy({ sound }: SoundSide): boolean {
  return lossyCodings.test(sound.coding);
}

export function lengthWords({ old, now }: Pick<Context, 'old' | 'now'>): string[] {
  const [before, after] = [old, now].map(({ sound }) => sound.frames / sound.sampleRate) as [number, number];
  const by = after - before;
  if (Math.abs(by) < 0.0005) return [];
  return [`${timeText(Math.abs(by))} ${by > 0 ? 'longer' : 'shorter'}`];
}

export function packedWords({ old, now, isOneRate }: Context): string {
  if (!isOneRate)
    return `the same sound at ${now.sound.sampleRate.toLocaleString('en')} Hz instead of ${old.sound.sampleRate.toLocaleString('en')}`;
  return 'the same sound, packed otherwise';
}

export function identity({ before, now }: Context): number[][] {
  return now.channels.map((_, output) =>
    Array.from({ length: before.length + 1 }, (_, input) => (input === output ? 1 : 0)),
  );
}

/** By all blocks: nothing in it is the same to the sample. */
export function wholeFit({ sums }: Context): MixtureFit {
  return fitOf(
    sums,
    mixtureOf(sums, () => true),
  );
}

/** What the older sound is by a mixture of its channels, as one row of samples at the newer one's places. */
export function saidBy({ before, now, shiftFrames }: Context, fit: MixtureFit): Float32Array {
  const length = now.channels[0]?.length ?? 0;
  const said = new Float32Array(length);
  const factors = fit.mixture.reduce<number[]>(
    (sum, row) => row.map((value, at) => value / fit.mixture.length + (sum[at] ?? 0)),
    [],
  );
  const isNothing = factors.slice(0, before.length).every((factor) => Math.abs(factor) < 1e-3);
  for (let input = 0; input < before.length; input++) {
    const factor = isNothing ? 1 / before.length : (factors[input] ?? 0);
    const samples = before[input];
    if (samples)
      for (let at = 0; at < length; at++)
        said[at] = (said[at] ?? 0) + factor * (samples[at - shiftFrames] ?? 0);
  }
  return said;
}
