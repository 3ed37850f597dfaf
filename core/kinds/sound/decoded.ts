import type { SoundFacts } from '../../../contract/facts.ts';
import { findKernels } from '../../kernels/kernels.ts';

/** A sound in memory. */
export interface DecodedSound {
  sampleRate: number;
  channels: number;
  /** Sample frames: one sample of each channel. */
  frames: number;
  /** How the samples are packed: PCM, IMA ADPCM, Vorbis … */
  coding: string;
  /** Bits to a sample as stored, null where that says nothing. */
  bits: number | null;
  /** What was decoded of it is not all: why. */
  damage: string | null;
  samples: Samples;
}

/**
 * Interleaved integers, with the sign in the highest of 16 or 32 bits whatever the file's own depth; or floats of each
 * channel by itself, 1 being full scale.
 */
export type Samples = { integers: Int16Array | Int32Array } | { floats: readonly Float32Array[] };

/** 32 bits where 16 say no less. */
export function narrowest(integers: Int32Array): Int16Array | Int32Array {
  const narrow = new Int16Array(integers.length);
  for (let at = 0; at < integers.length; at++) {
    const value = integers[at] ?? 0;
    if ((value & 0xffff) !== 0) return integers;
    narrow[at] = value >> 16;
  }
  return narrow;
}

/** A sample as a number from -1 to 1: the greatest of either sign is full scale. */
export function unitOf(sample: number, full: number): number {
  return sample < 0 ? sample / full : sample / (full - 1);
}

/** Full scale of integers that are held in 16 or in 32 bits. */
export function fullScale(integers: Int16Array | Int32Array): number {
  return integers instanceof Int16Array ? 2 ** 15 : 2 ** 31;
}

/** Each channel as floats. @param kernels null where they are to be made without */
export function floatsOf(
  { channels, frames, samples }: DecodedSound,
  kernels = findKernels(),
): readonly Float32Array[] {
  if ('floats' in samples) return samples.floats;
  const { integers } = samples;
  const full = fullScale(integers);
  const [below, above] = [1 / full, 1 / (full - 1)];
  const floats = Array.from({ length: channels }, () => new Float32Array(frames));
  const atOnce = kernels ? Math.floor(kernels.stripPixels / channels) : 0;
  if (kernels && atOnce > 0) {
    const { first, output } = kernels;
    for (let from = 0; from < frames; from += atOnce) {
      const count = Math.min(atOnce, frames - from);
      const part = integers.subarray(from * channels, (from + count) * channels);
      first.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength));
      kernels.toFloats(integers instanceof Int16Array, channels, count, below, above);
      for (const [channel, values] of floats.entries())
        values.set(new Float32Array(output.buffer, output.byteOffset + channel * count * 4, count), from);
    }
    return floats;
  }
  for (const [channel, values] of floats.entries())
    for (let frame = 0, at = channel; frame < frames; frame++, at += channels) {
      const value = integers[at] ?? 0;
      values[frame] = value < 0 ? value * below : value * above;
    }
  return floats;
}

/** The content for the fingerprint: equal for equal samples, loops and marks, whatever packed them. */
export function contentOf(
  { sampleRate, channels, frames, samples }: DecodedSound,
  loops: SoundFacts['loops'],
  cues: SoundFacts['cues'],
): Uint8Array[] {
  const arrays = 'integers' in samples ? [samples.integers] : samples.floats;
  const name = 'integers' in samples ? samples.integers.BYTES_PER_ELEMENT * 8 : 'float';
  return [
    new TextEncoder().encode(
      `sound ${sampleRate} ${channels} ${frames} ${name} ${JSON.stringify([loops, cues])}\n`,
    ),
    ...arrays.map(({ buffer, byteOffset, byteLength }) => new Uint8Array(buffer, byteOffset, byteLength)),
  ];
}
