import type { RiffChunk } from './riff.ts';

/** A WAV of 16 bit integers: most of a game's sounds. What they tell is read off them as they lie. */
export interface Pcm16 {
  sampleRate: number;
  channels: number;
  frames: number;
  /** Interleaved. */
  samples: Int16Array;
}

const pcmCoding = 1;

/** @returns null for a WAV of another coding (see `riffChunks` for the format) */
export function pcm16Of(bytes: Uint8Array, chunks: readonly RiffChunk[]): Pcm16 | null {
  const format = chunks.find(({ id }) => id === 'fmt ');
  const data = chunks.find(({ id }) => id === 'data');
  if (!format || !data || format.start + 16 > bytes.length) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const channels = view.getUint16(format.start + 2, true);
  const isPcm16 =
    view.getUint16(format.start, true) === pcmCoding && view.getUint16(format.start + 14, true) === 16;
  if (!isPcm16 || channels === 0 || view.getUint16(format.start + 12, true) !== channels * 2) return null;
  const length = Math.min(data.length, bytes.length - data.start);
  const frames = Math.floor(length / (channels * 2));
  const start = bytes.byteOffset + data.start;
  // Numbers of two bytes are read where they begin at an even place.
  const samples =
    start % 2 === 0
      ? new Int16Array(bytes.buffer, start, frames * channels)
      : new Int16Array(bytes.slice(data.start, data.start + frames * channels * 2).buffer);
  return { sampleRate: view.getUint32(format.start + 4, true), channels, frames, samples };
}

/** A sample as a number from -1 to 1, as the decoder of other codings gives it. */
export function unitOf(sample: number): number {
  return sample < 0 ? sample / 32768 : sample / 32767;
}

/** Lowest and highest value of the mean of all channels, and the largest of any channel, in a stretch of frames. */
export function extremesOf(
  { samples, channels }: Pcm16,
  from: number,
  to: number,
): { low: number; high: number; peak: number } {
  if (channels === 1) {
    let low = 32767;
    let high = -32768;
    for (let at = from; at < to; at++) {
      const sample = samples[at] ?? 0;
      if (sample < low) low = sample;
      if (sample > high) high = sample;
    }
    return { low: unitOf(low), high: unitOf(high), peak: Math.max(-unitOf(low), unitOf(high)) };
  }
  let low = Infinity;
  let high = -Infinity;
  let peak = 0;
  for (let frame = from; frame < to; frame++) {
    let sum = 0;
    for (let channel = 0; channel < channels; channel++) {
      const value = unitOf(samples[frame * channels + channel] ?? 0);
      sum += value;
      peak = Math.max(peak, Math.abs(value));
    }
    const mean = sum / channels;
    if (mean < low) low = mean;
    if (mean > high) high = mean;
  }
  return { low, high, peak };
}
