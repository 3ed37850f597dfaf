import { findKernels, type Kernels } from '../../kernels/kernels.ts';
import { fullScale, unitOf, type DecodedSound } from './decoded.ts';
import { framesAtOnce, putFrames } from './kernel-frames.ts';

const envelopeSlices = 400;

interface Extremes {
  low: number;
  high: number;
  peak: number;
}

/**
 * Lowest and highest value of the mixed-down signal in each of 400 slices of time, as signed bytes in Base64, and the
 * largest of any channel. Integers are looked at as they lie: making numbers of all of them first took most of the time.
 * @param kernels null where it is to be computed without
 */
export function envelopeOf(
  sound: Pick<DecodedSound, 'channels' | 'frames' | 'samples'>,
  kernels = findKernels(),
): { envelope: string; peak: number } {
  const slices = Math.min(envelopeSlices, sound.frames);
  const envelope = new Int8Array(slices * 2);
  let peak = 0;
  for (let slice = 0; slice < slices; slice++) {
    const from = Math.floor((slice * sound.frames) / slices);
    const to = Math.floor(((slice + 1) * sound.frames) / slices);
    const found =
      kernels && sound.channels > 1 ? inKernel(kernels, sound, from, to) : extremesOf(sound, from, to);
    peak = Math.max(peak, found.peak);
    envelope[slice * 2] = Math.max(-127, Math.round(found.low * 127));
    envelope[slice * 2 + 1] = Math.min(127, Math.round(found.high * 127));
  }
  return { envelope: btoa(String.fromCharCode(...new Uint8Array(envelope.buffer))), peak };
}

function inKernel(
  kernels: Kernels,
  sound: Pick<DecodedSound, 'channels' | 'samples'>,
  from: number,
  to: number,
): Extremes {
  const { channels, samples } = sound;
  const most = framesAtOnce(kernels, channels);
  if (most < 1) return extremesOf(sound, from, to);
  const full = 'floats' in samples ? 1 : fullScale(samples.integers);
  kernels.clearExtremes();
  for (let at = from; at < to; at += most) {
    const frames = Math.min(most, to - at);
    const { sort, apart } = putFrames(kernels, sound, at, frames);
    kernels.addExtremes(sort, channels, frames, apart, full);
  }
  const [low = 0, high = 0, peak = 0] = kernels.sums;
  return { low: low / channels, high: high / channels, peak };
}

function extremesOf(
  { channels, samples }: Pick<DecodedSound, 'channels' | 'samples'>,
  from: number,
  to: number,
): Extremes {
  if ('floats' in samples) {
    const [first = new Float32Array(0)] = samples.floats;
    return channels === 1
      ? ofOne(first, from, to, (value) => value)
      : ofMany(samples.floats, 1, null, from, to);
  }
  const { integers } = samples;
  const full = fullScale(integers);
  return channels === 1
    ? ofOne(integers, from, to, (value) => unitOf(value, full))
    : ofMany(
        Array.from({ length: channels }, (_, channel) => integers.subarray(channel)),
        channels,
        full,
        from,
        to,
      );
}

function ofOne(
  values: Float32Array | Int16Array | Int32Array,
  from: number,
  to: number,
  unit: (value: number) => number,
): Extremes {
  let lowest = values[from] ?? 0;
  let highest = lowest;
  for (let at = from; at < to; at++) {
    const value = values[at] ?? 0;
    if (value < lowest) lowest = value;
    if (value > highest) highest = value;
  }
  const low = unit(lowest);
  const high = unit(highest);
  return { low, high, peak: Math.max(-low, high) };
}

/**
 * Of more channels than one the extremes of their mean, and the largest of any: they may cancel out in the mix.
 * @param step from a sample of a channel to its next
 * @param full scale of integers; null for floats
 */
function ofMany(
  channels: readonly (Float32Array | Int16Array | Int32Array)[],
  step: number,
  full: number | null,
  from: number,
  to: number,
): Extremes {
  const sums = new Float64Array(to - from);
  let peak = 0;
  for (const values of channels)
    for (let frame = 0, at = from * step; frame < sums.length; frame++, at += step) {
      const sample = values[at] ?? 0;
      const value = full === null ? sample : sample < 0 ? sample / full : sample / (full - 1);
      sums[frame] = (sums[frame] ?? 0) + value;
      if (value > peak) peak = value;
      else if (-value > peak) peak = -value;
    }
  let low = Infinity;
  let high = -Infinity;
  for (const sum of sums) {
    if (sum < low) low = sum;
    if (sum > high) high = sum;
  }
  return { low: low / channels.length, high: high / channels.length, peak };
}

/** The envelope of a sound's facts as numbers in -1 to 1: low, high, low, high, … */
export function decodeEnvelope(envelope: string): number[] {
  return Array.from(atob(envelope), (letter) => {
    const byte = letter.charCodeAt(0);
    return (byte > 127 ? byte - 256 : byte) / 127;
  });
}
