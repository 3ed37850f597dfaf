import { md5 } from 'hash-wasm';
import type { SoundFacts } from '../../../../contract/facts.ts';
import { asItLay, type SoundSettings } from '../../../../contract/haul-settings.ts';
import type { OtherKinds } from '../../comparing.ts';
import { ReadError, type ReadRequest } from '../../reading.ts';
import type { Proof, Written } from '../../writing.ts';
import { compareSounds } from '../compare.ts';
import { fullScale, type DecodedSound } from '../decoded.ts';
import { streamInfo } from '../flac.ts';
import { decodeSound, soundOf } from '../read.ts';
import { lossesOfSound, soundEndings } from './losses.ts';
import { bitsOf, writeWave, type WaveBits } from './wave.ts';

/** What Opus has, whatever it was made of (RFC 6716). */
const opusRate = 48_000;

/** Writes a sound in another format, and reads it again. @throws ReadError */
export async function writeSound(
  request: ReadRequest,
  format: string,
  settings: SoundSettings,
  others: OtherKinds,
): Promise<Written> {
  const { as } = settings;
  if (as === asItLay) throw new RangeError('writeSound: what stays as it lay is not written');
  if (format === 'midi' && !request.bySheet)
    throw new ReadError('this is MIDI, which has notes and no samples: it can be taken out as it lay');
  const { sound, loops, cues } = await soundOf(request, format);
  if (sound.channels === 0 || sound.frames === 0)
    throw new ReadError(sound.damage ?? 'no sound could be decoded from it');
  const bits = bitsToWrite(sound, settings);
  const wave = writeWave(sound, bits, { loops, cues });
  const bytes =
    as === 'wav' ? wave : await request.platform.encodeSound(wave, as, commentsOf(loops, sound, as));
  return {
    files: [{ ending: soundEndings[as], bytes }],
    losses: lossesOfSound({ loops, cues, bits: sound.bits, coding: sound.coding }, settings),
    notes: sound.damage === null ? [] : [sound.damage],
    proof:
      (as === 'flac' && (await proofByChecksum(sound, bits, bytes))) ||
      (await proofOf(request, sound, bytes, as, others)),
  };
}

function bitsToWrite(sound: DecodedSound, { as, bits }: SoundSettings): WaveBits {
  if (bits === '16') return 16;
  if (bits === '24') return 24;
  const own = bitsOf(sound);
  // FLAC has integers, and 24 bits are more than is heard.
  return as === 'flac' && (own === 'float' || own === 32) ? 24 : own;
}

/** Loops as players of games look for them: in sample frames, the first with its length. */
function commentsOf(
  loops: SoundFacts['loops'],
  { sampleRate }: DecodedSound,
  as: string,
): Record<string, string> {
  const [loop] = loops;
  if (!loop) return {};
  const factor = as === 'opus' ? opusRate / sampleRate : 1;
  const start = Math.round(loop.startFrame * factor);
  return {
    LOOPSTART: String(start),
    LOOPLENGTH: String(Math.round((loop.endFrame + 1) * factor) - start),
  };
}

/**
 * FLAC carries the MD5 of its samples (RFC 9639, 8.2), and whoever packs it here has its own program compare them. Where that is the
 * MD5 of what was to be written, they are the same. @returns null for what it is not told of so: it is decoded
 */
async function proofByChecksum(
  { samples, sampleRate, channels, frames }: DecodedSound,
  bits: WaveBits,
  bytes: Uint8Array,
): Promise<Proof | null> {
  const info = streamInfo(bytes);
  if (!info || bits !== 16 || !('integers' in samples) || !(samples.integers instanceof Int16Array))
    return null;
  const { integers } = samples;
  const isSame =
    info.sampleRate === sampleRate &&
    info.channels === channels &&
    info.frames === frames &&
    info.bits === bits &&
    info.md5 === (await md5(new Uint8Array(integers.buffer, integers.byteOffset, integers.byteLength)));
  return isSame ? { verdict: 'the same', sentence: '' } : null;
}

async function proofOf(
  request: ReadRequest,
  sound: DecodedSound,
  bytes: Uint8Array,
  as: keyof typeof soundEndings,
  others: OtherKinds,
): Promise<Proof> {
  if (as === 'wav' || as === 'flac') return proofOfSamples(sound, await decodeSound(bytes, as));
  const written = { ...request, bytes, size: bytes.length, path: `x${soundEndings[as]}`, bySheet: undefined };
  const { comparison } = await compareSounds(request, written, others);
  return comparison.nature === 'same'
    ? { verdict: 'the same', sentence: '' }
    : { verdict: 'differs', sentence: comparison.sentence };
}

/** Sample by sample. */
export function proofOfSamples(source: DecodedSound, read: DecodedSound): Proof {
  const differs = (sentence: string): Proof => ({ verdict: 'differs', sentence });
  if (read.damage !== null) return differs(`What was written is damaged: ${read.damage}.`);
  if (source.sampleRate !== read.sampleRate || source.channels !== read.channels)
    return differs(
      `It has ${read.channels} channels at ${read.sampleRate} Hz instead of ${source.channels} at ${source.sampleRate}.`,
    );
  if (source.frames !== read.frames)
    return differs(`It has ${read.frames} sample frames instead of ${source.frames}.`);
  if (areEqual(source, read)) return { verdict: 'the same', sentence: '' };
  const [first, second] = [sampleAt(source), sampleAt(read)];
  let greatest = 0;
  for (let frame = 0; frame < source.frames; frame++)
    for (let channel = 0; channel < source.channels; channel++)
      greatest = Math.max(greatest, Math.abs(first(frame, channel) - second(frame, channel)));
  if (greatest === 0) return { verdict: 'the same', sentence: '' };
  return differs(`Its samples differ by at most ${(20 * Math.log10(greatest)).toFixed(0)} dB of full scale.`);
}

/** Samples on one scale for either sign, so that steps of other bits are compared as they are. */
function sampleAt({ samples, channels }: DecodedSound): (frame: number, channel: number) => number {
  if ('floats' in samples) {
    const { floats } = samples;
    return (frame, channel) => floats[channel]?.[frame] ?? 0;
  }
  const { integers } = samples;
  const full = fullScale(integers);
  return (frame, channel) => (integers[frame * channels + channel] ?? 0) / full;
}

function areEqual({ samples: first }: DecodedSound, { samples: second }: DecodedSound): boolean {
  if (!('integers' in first) || !('integers' in second)) return false;
  const [a, b] = [first.integers, second.integers];
  if (a.constructor !== b.constructor || a.length !== b.length) return false;
  for (let at = 0; at < a.length; at++) if (a[at] !== b[at]) return false;
  return true;
}
