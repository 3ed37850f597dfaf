import type { Kernels } from '../../kernels/kernels.ts';
import type { DecodedSound } from './decoded.ts';

/** How samples lie in `first`, as the kernels are told. */
const sorts = { floats: 0, short: 1, long: 2 } as const;

/** Frames that fit into `first` at once. */
export function framesAtOnce({ first }: Kernels, channels: number): number {
  return Math.floor(first.length / (channels * 4));
}

/**
 * Copies frames of a sound into `first`; beyond its ends there is silence.
 * @param frames no more than `framesAtOnce`
 * @returns how they lie there, and how many bytes a channel's first sample is before that of the next
 */
export function putFrames(
  { first }: Kernels,
  { channels, samples }: Pick<DecodedSound, 'channels' | 'samples'>,
  from: number,
  frames: number,
): { sort: number; apart: number } {
  if ('floats' in samples) {
    samples.floats.forEach((floats, channel) => copy(floats, from, frames, first, channel * frames * 4));
    return { sort: sorts.floats, apart: frames * 4 };
  }
  const { integers } = samples;
  copy(integers, from * channels, frames * channels, first, 0);
  return {
    sort: integers instanceof Int16Array ? sorts.short : sorts.long,
    apart: integers.BYTES_PER_ELEMENT,
  };
}

function copy(
  values: Float32Array | Int16Array | Int32Array,
  from: number,
  length: number,
  first: Uint8Array,
  place: number,
): void {
  const bytes = values.BYTES_PER_ELEMENT;
  const begin = Math.min(Math.max(0, from), values.length);
  const end = Math.max(begin, Math.min(values.length, from + length));
  const to = place + Math.max(0, Math.min(begin - from, length)) * bytes;
  first.fill(0, place, to);
  first.set(new Uint8Array(values.buffer, values.byteOffset + begin * bytes, (end - begin) * bytes), to);
  first.fill(0, to + (end - begin) * bytes, place + length * bytes);
}
