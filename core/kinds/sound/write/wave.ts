import type { SoundFacts } from '../../../../contract/facts.ts';
import { fullScale, type DecodedSound } from '../decoded.ts';

export type WaveBits = 8 | 16 | 24 | 32 | 'float';

/** Bits that hold all that is known of a sound: those of its file, or floats where it was packed with loss. */
export function bitsOf({ bits, samples }: DecodedSound): WaveBits {
  if ('floats' in samples) return 'float';
  if (bits !== null && bits <= 8) return 8;
  if (samples.integers instanceof Int16Array) return 16;
  return bits !== null && bits <= 24 ? 24 : 32;
}

/**
 * A WAV (see `riffChunks`) with the loops in a `smpl` chunk, both ends played, and marked places in `cue ` with their labels.
 * Integers keep their value where they fit; fewer bits are rounded.
 */
export function writeWave(
  sound: DecodedSound,
  bits: WaveBits,
  { loops, cues }: Pick<SoundFacts, 'loops' | 'cues'>,
): Uint8Array {
  const { channels, frames, sampleRate } = sound;
  const sampleBytes = bits === 'float' ? 4 : bits / 8;
  const format = new Uint8Array(16);
  const view = new DataView(format.buffer);
  view.setUint16(0, bits === 'float' ? 3 : 1, true);
  view.setUint16(2, channels, true);
  view.setUint32(4, sampleRate, true);
  view.setUint32(8, sampleRate * channels * sampleBytes, true);
  view.setUint16(12, channels * sampleBytes, true);
  view.setUint16(14, sampleBytes * 8, true);
  const chunks = [
    chunk('fmt ', format),
    chunk('data', samplesOf(sound, bits, frames * channels * sampleBytes)),
    ...(loops.length > 0 ? [chunk('smpl', loopsOf(loops, sampleRate))] : []),
    ...(cues.length > 0 ? cueChunks(cues) : []),
  ];
  const length = chunks.reduce((sum, piece) => sum + piece.length, 0);
  const bytes = new Uint8Array(12 + length);
  bytes.set(letters('RIFF'));
  new DataView(bytes.buffer).setUint32(4, 4 + length, true);
  bytes.set(letters('WAVE'), 8);
  let at = 12;
  for (const piece of chunks) {
    bytes.set(piece, at);
    at += piece.length;
  }
  return bytes;
}

function samplesOf(
  { samples, channels, frames }: DecodedSound,
  bits: WaveBits,
  byteCount: number,
): Uint8Array {
  if (bits === 16 && 'integers' in samples && samples.integers instanceof Int16Array) {
    // As they lie in memory: little-endian, on every machine that this runs on.
    const { buffer, byteOffset } = samples.integers;
    return new Uint8Array(buffer, byteOffset, byteCount);
  }
  const bytes = new Uint8Array(byteCount);
  const view = new DataView(bytes.buffer);
  const put = writers[bits](view);
  if ('integers' in samples) {
    const full = fullScale(samples.integers);
    samples.integers.forEach((value, at) => put(at, value / full));
    return bytes;
  }
  samples.floats.forEach((values, channel) => {
    for (let frame = 0; frame < frames; frame++) put(frame * channels + channel, values[frame] ?? 0);
  });
  return bytes;
}

/** Puts a sample from −1 up to 1 at its place; what is beyond is kept at full scale, but for floats. */
const writers: Readonly<Record<WaveBits, (view: DataView) => (at: number, value: number) => void>> = {
  8: (view) => (at, value) => view.setUint8(at, step(value, 2 ** 7) + 128),
  16: (view) => (at, value) => view.setInt16(at * 2, step(value, 2 ** 15), true),
  24: (view) => (at, value) => {
    const whole = step(value, 2 ** 23);
    view.setUint8(at * 3, whole & 0xff);
    view.setInt16(at * 3 + 1, whole >> 8, true);
  },
  32: (view) => (at, value) => view.setInt32(at * 4, step(value, 2 ** 31), true),
  float: (view) => (at, value) => view.setFloat32(at * 4, value, true),
};

function step(value: number, full: number): number {
  return Math.max(-full, Math.min(full - 1, Math.round(value * full)));
}

function loopsOf(loops: SoundFacts['loops'], sampleRate: number): Uint8Array {
  const bytes = new Uint8Array(36 + loops.length * 24);
  const view = new DataView(bytes.buffer);
  view.setUint32(8, Math.round(1e9 / sampleRate), true);
  view.setUint32(12, 60, true);
  view.setUint32(28, loops.length, true);
  loops.forEach(({ startFrame, endFrame }, at) => {
    view.setUint32(36 + at * 24, at, true);
    view.setUint32(36 + at * 24 + 8, startFrame, true);
    view.setUint32(36 + at * 24 + 12, endFrame, true);
  });
  return bytes;
}

function cueChunks(cues: SoundFacts['cues']): Uint8Array[] {
  const places = new Uint8Array(4 + cues.length * 24);
  const view = new DataView(places.buffer);
  view.setUint32(0, cues.length, true);
  const labels: Uint8Array[] = [letters('adtl')];
  cues.forEach(({ frame, label }, at) => {
    view.setUint32(4 + at * 24, at + 1, true);
    places.set(letters('data'), 4 + at * 24 + 8);
    view.setUint32(4 + at * 24 + 4, frame, true);
    view.setUint32(4 + at * 24 + 20, frame, true);
    const words = new Uint8Array([...letters(label), 0]);
    const body = new Uint8Array(4 + words.length);
    new DataView(body.buffer).setUint32(0, at + 1, true);
    body.set(words, 4);
    labels.push(chunk('labl', body));
  });
  return [chunk('cue ', places), chunk('LIST', joined(labels))];
}

function chunk(id: string, body: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(8 + body.length + (body.length & 1));
  bytes.set(letters(id));
  new DataView(bytes.buffer).setUint32(4, body.length, true);
  bytes.set(body, 8);
  return bytes;
}

function joined(pieces: readonly Uint8Array[]): Uint8Array {
  return new Uint8Array(pieces.flatMap((piece) => [...piece]));
}

/** As Latin-1, which is what this format has. */
function letters(text: string): Uint8Array {
  return Uint8Array.from(text, (letter) => (letter.charCodeAt(0) < 256 ? letter.charCodeAt(0) : 63));
}
