import { ReadError } from '../reading.ts';
import type { DecodedSound } from './decoded.ts';
import { aLawSample, muLawSample, pcmSamples } from './pcm.ts';

/**
 * AIFF and AIFF-C (Audio Interchange File Format 1.3 and AIFF-C draft of 1991): big-endian chunks; PCM of 8 to 32 bits
 * with a sign, `sowt` (little-endian), floats, A-law and µ-law.
 * @throws ReadError
 */
export function decodeAiff(bytes: Uint8Array): DecodedSound {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const chunks = new Map<string, { start: number; length: number }>();
  for (let at = 12; at + 8 <= bytes.length;) {
    const length = view.getUint32(at + 4);
    chunks.set(text(bytes, at), { start: at + 8, length });
    at += 8 + length + (length & 1);
  }
  const common = chunks.get('COMM');
  const sound = chunks.get('SSND');
  if (!common || common.start + 18 > bytes.length) throw new ReadError('this AIFF file has no “COMM” chunk');
  if (!sound || sound.start + 8 > bytes.length) throw new ReadError('this AIFF file has no “SSND” chunk');
  const channels = view.getUint16(common.start);
  const promised = view.getUint32(common.start + 2);
  const bits = view.getUint16(common.start + 6);
  const sampleRate = extended(view, common.start + 8);
  const packing = common.length >= 22 ? text(bytes, common.start + 18) : 'NONE';
  const sampleBytes = packing === 'alaw' || packing === 'ulaw' ? 1 : Math.ceil(bits / 8);
  if (channels === 0 || !(sampleRate > 0) || sampleBytes < 1 || sampleBytes > 8)
    throw new ReadError(`this AIFF file tells of ${channels} channels of ${bits} bits at ${sampleRate} Hz`);
  const start = sound.start + 8 + view.getUint32(sound.start);
  const stored = bytes.subarray(start, Math.min(bytes.length, start + promised * channels * sampleBytes));
  const frames = Math.floor(stored.length / sampleBytes / channels);
  const damage =
    frames < promised
      ? `the file is cut short: its header promises ${promised} sample frames, ${frames} could be decoded`
      : null;
  const told = { sampleRate, channels, frames, damage };
  switch (packing.toLowerCase()) {
    case 'alaw':
    case 'ulaw': {
      const toSample = packing.toLowerCase() === 'alaw' ? aLawSample : muLawSample;
      return {
        ...told,
        coding: packing.toLowerCase() === 'alaw' ? 'A-law' : 'µ-law',
        bits: null,
        samples: { integers: Int16Array.from(stored, toSample) },
      };
    }
    case 'none':
    case 'twos':
    case 'sowt':
    case 'in24':
    case 'in32':
    case 'fl32':
    case 'fl64': {
      const isFloat = packing.toLowerCase().startsWith('fl');
      const samples = pcmSamples(stored, channels, {
        bits,
        sampleBytes,
        isBigEndian: packing !== 'sowt',
        isSigned: true,
        isFloat,
      });
      return { ...told, coding: isFloat ? 'PCM float' : 'PCM', bits, samples };
    }
    default:
      throw new ReadError(`this AIFF file is packed as “${packing}”, which is not read`);
  }
}

function text(bytes: Uint8Array, at: number): string {
  return String.fromCharCode(...bytes.subarray(at, at + 4));
}

/** A number of 80 bits, as the sample rate is (IEEE 754 extended). */
function extended(view: DataView, at: number): number {
  const exponent = (view.getUint16(at) & 0x7fff) - 16_383;
  return (view.getUint32(at + 2) * 2 ** -31 + view.getUint32(at + 6) * 2 ** -63) * 2 ** exponent;
}
