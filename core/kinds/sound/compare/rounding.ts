import type { DecodedSound } from '../decoded.ts';
import { timeText } from './times.ts';

/** How integers of two sounds differ, in steps of the finer one's bits. */
export interface Steps {
  differing: number;
  samples: number;
  greatest: number;
  /** Frame of the first that differs, of the newer one. */
  first: number;
}

/** @returns null where one of them is no row of integers */
export function stepsBetween(old: DecodedSound, now: DecodedSound, shiftFrames: number): Steps | null {
  if (old.channels !== now.channels) return null;
  const result: Steps = { differing: 0, samples: 0, greatest: 0, first: -1 };
  const [from, to] = [Math.max(0, shiftFrames), Math.min(now.frames, old.frames + shiftFrames)];
  const read = (sound: DecodedSound): ((frame: number, channel: number) => number) | null => {
    const { samples, channels } = sound;
    if ('floats' in samples) {
      const { floats } = samples;
      return (frame, channel) => (floats[channel]?.[frame] ?? 0) * 2 ** 31;
    }
    const { integers } = samples;
    const scale = integers instanceof Int16Array ? 2 ** 16 : 1;
    return (frame, channel) => (integers[frame * channels + channel] ?? 0) * scale;
  };
  const [before, after] = [read(old), read(now)];
  if (!before || !after) return null;
  const step = 2 ** (32 - Math.min(32, Math.max(old.bits ?? 16, now.bits ?? 16)));
  for (let frame = from; frame < to; frame++)
    for (let channel = 0; channel < now.channels; channel++) {
      result.samples++;
      const by = Math.abs(after(frame, channel) - before(frame - shiftFrames, channel)) / step;
      if (by === 0) continue;
      result.differing++;
      if (by > result.greatest) result.greatest = by;
      if (result.first < 0) result.first = frame;
    }
  return result;
}

/** Samples that differ by so few steps that nobody hears them, in words; null where they differ by more. */
export function describeRounding(
  { differing, samples, greatest, first }: Steps,
  old: DecodedSound,
  now: DecodedSound,
  sampleRate: number,
): { nature: 'recompressed' | 'other'; words: string[]; extent: number } | null {
  const [was, is] = [old.bits ?? 0, now.bits ?? 0];
  if (is > 0 && was > is)
    return {
      // What is left of 16 bits and more is heard by nobody; what is left of fewer hisses.
      nature: is >= 16 ? 'recompressed' : 'other',
      words: [`the same sound, rounded from ${was} to ${is} bits`],
      extent: is >= 16 ? 0.01 : 0.1,
    };
  if (greatest > 2.5) return null;
  const steps = `${greatest <= 1.01 ? 'one step' : `${Math.round(greatest)} steps`} of ${Math.max(was, is) || 16} bits`;
  if (differing > samples * 0.01)
    return {
      nature: 'recompressed',
      words: [`the same sound, rounded otherwise: no sample is off by more than ${steps}`],
      extent: 0.01,
    };
  return {
    nature: 'other',
    words: [
      differing === 1
        ? `one sample off by ${steps}, at ${timeText(first / sampleRate)}`
        : `${differing.toLocaleString('en')} samples off by up to ${steps}, the first at ${timeText(first / sampleRate)}`,
    ],
    extent: 0.001,
  };
}
