import decodeWav from '@audio/decode-wav';
import { ReadError } from '../reading.ts';
import type { DecodedSound } from './decoded.ts';
import { aLawSample, muLawSample, pcmSamples } from './pcm.ts';
import { riffChunks } from './riff.ts';

const codings: Readonly<Record<number, string>> = {
  1: 'PCM',
  2: 'MS ADPCM',
  3: 'PCM float',
  6: 'A-law',
  7: 'µ-law',
  17: 'IMA ADPCM',
};
const extensible = 0xfffe;

/**
 * WAV (see `riffChunks`): PCM of 8 to 32 bits, floats, A-law, µ-law, and the two ADPCM codings.
 * @throws ReadError
 */
export function decodeWave(bytes: Uint8Array): DecodedSound {
  const chunks = riffChunks(bytes);
  const format = chunks.find(({ id }) => id === 'fmt ');
  const data = chunks.find(({ id }) => id === 'data');
  if (!format || format.start + 16 > bytes.length) throw new ReadError('this WAV file has no “fmt ” chunk');
  if (!data) throw new ReadError('this WAV file has no “data” chunk');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const said = view.getUint16(format.start, true);
  const coding = said === extensible && format.length >= 26 ? view.getUint16(format.start + 24, true) : said;
  const channels = view.getUint16(format.start + 2, true);
  const sampleRate = view.getUint32(format.start + 4, true);
  const blockBytes = view.getUint16(format.start + 12, true);
  const bits = view.getUint16(format.start + 14, true);
  const name = codings[coding];
  if (!name) throw new ReadError(`this WAV file is of coding ${coding}, which is not read`);
  if (channels === 0 || sampleRate === 0 || blockBytes === 0)
    throw new ReadError(
      `this WAV file tells of ${channels} channels at ${sampleRate} Hz in blocks of ${blockBytes} bytes`,
    );
  const there = bytes.subarray(data.start, Math.min(bytes.length, data.start + data.length));
  const isCut = there.length < data.length;
  const told = { sampleRate, channels, coding: name, bits: coding === 1 || coding === 3 ? bits : null };
  const cut = (frames: number, promised: number): string | null =>
    isCut
      ? `the file is cut short: its header promises ${promised} sample frames, ${frames} could be decoded`
      : null;

  if (coding === 2 || coding === 17) {
    let floats: Float32Array[];
    try {
      // It slices and expects a copy, which a subclass of Uint8Array need not give.
      floats = decodeWav(new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength)).channelData;
    } catch (error) {
      throw new ReadError(
        `it could not be decoded as ${name}: ${error instanceof Error ? error.message : String(error)}`,
      );
    }
    const frames = floats[0]?.length ?? 0;
    const integers = new Int16Array(frames * channels);
    floats.forEach((samples, channel) =>
      samples.forEach(
        (sample, frame) => (integers[frame * channels + channel] = Math.round(sample * 32_768)),
      ),
    );
    return {
      ...told,
      frames,
      samples: { integers },
      damage: cut(frames, Math.floor((frames * data.length) / Math.max(1, there.length))),
    };
  }
  if (coding === 6 || coding === 7) {
    const toSample = coding === 6 ? aLawSample : muLawSample;
    const frames = Math.floor(there.length / channels);
    const integers = Int16Array.from({ length: frames * channels }, (_, at) => toSample(there[at] ?? 0));
    return {
      ...told,
      frames,
      samples: { integers },
      damage: cut(frames, Math.floor(data.length / channels)),
    };
  }
  const sampleBytes = blockBytes / channels;
  const isFitting =
    coding === 3 ? sampleBytes === 4 || sampleBytes === 8 : [1, 2, 3, 4].includes(sampleBytes);
  if (!isFitting)
    throw new ReadError(`this WAV file has ${bits} bits to a sample in blocks of ${blockBytes} bytes`);
  const frames = Math.floor(there.length / blockBytes);
  const samples = pcmSamples(there, channels, {
    bits,
    sampleBytes,
    isBigEndian: false,
    isSigned: false,
    isFloat: coding === 3,
  });
  return { ...told, frames, samples, damage: cut(frames, Math.floor(data.length / blockBytes)) };
}
