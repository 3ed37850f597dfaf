import type { SoundResult } from '../../../contract/format-sheets.ts';
import type { SoundFacts } from '../../../contract/facts.ts';
import type { DecodedSound } from '../../kinds/sound/decoded.ts';
import { aLawSample, muLawSample, pcmSamples } from '../../kinds/sound/pcm.ts';
import { decodeWave } from '../../kinds/sound/wav.ts';
import { compileExpression, isTrue, shown, wholeNumber } from '../language/expression.ts';
import { bytesOf, numberOf } from '../language/conversions.ts';
import { SheetError } from '../language/sheet-error.ts';
import type { Struct } from '../language/values.ts';
import { compileItems, optional } from './items.ts';

/** A sound by a sheet, with its loops in sample frames. */
export interface SheetSound {
  sound: DecodedSound;
  loops: SoundFacts['loops'];
}

const codings = ['pcm', 'float', 'a-law', 'mu-law', 'ima-adpcm', 'ms-adpcm'] as const;
type Coding = (typeof codings)[number];

/** Makes a sound of fields. @throws SheetError */
export function compileSound(result: SoundResult): (root: Struct) => SheetSound {
  const [rate, channels] = [compileExpression(result.rate), compileExpression(result.channels)];
  const samples = compileExpression(result.samples);
  const coding = isCoding(result.coding) ? () => result.coding as Coding : compileExpression(result.coding);
  const bits = compileExpression(result.bits);
  const endian =
    result.endian === 'little' || result.endian === 'big'
      ? () => result.endian as string
      : compileExpression(result.endian);
  const [signed, blockBytes] = [optional(result.signed), optional(result.blockBytes)];
  const loops = result.loops && {
    items: compileItems(result.loops),
    start: compileExpression(result.loops.start),
    end: compileExpression(result.loops.end),
  };
  return (root) => {
    const name = coding(root);
    if (!isCoding(name))
      throw new SheetError(`there is no coding ${shown(name)}: there are ${codings.join(', ')}`);
    const sampleRate = wholeNumber(rate(root), 'a rate of');
    const count = wholeNumber(channels(root), 'channels');
    if (sampleRate < 1 || sampleRate > 1_000_000 || count < 1 || count > 64)
      throw new SheetError(`it tells of ${count} channels at ${sampleRate} Hz`);
    const bytes = bytesOf(samples(root));
    const depth = wholeNumber(bits(root), 'bits');
    const sound = decoded(bytes, name, {
      ...{ sampleRate, channels: count, bits: depth },
      isBigEndian: endian(root) === 'big',
      isSigned: signed ? isTrue(signed(root)) : depth > 8,
      blockBytes: blockBytes ? wholeNumber(blockBytes(root), 'bytes of a block') : null,
    });
    const found = loops
      ? [...loops.items(root)].map((scope) => ({
          startFrame: numberOf(loops.start(scope)),
          endFrame: numberOf(loops.end(scope)),
        }))
      : [];
    return { sound, loops: found };
  };
}

function isCoding(value: unknown): value is Coding {
  return codings.some((coding) => coding === value);
}

interface Told {
  sampleRate: number;
  channels: number;
  bits: number;
  isBigEndian: boolean;
  isSigned: boolean;
  blockBytes: number | null;
}

function decoded(bytes: Uint8Array, coding: Coding, told: Told): DecodedSound {
  const { sampleRate, channels, bits } = told;
  const plain = { sampleRate, channels, damage: null };
  if (coding === 'a-law' || coding === 'mu-law') {
    const frames = Math.floor(bytes.length / channels);
    const toSample = coding === 'a-law' ? aLawSample : muLawSample;
    const integers = Int16Array.from({ length: frames * channels }, (_, at) => toSample(bytes[at] as number));
    const name = coding === 'a-law' ? 'A-law' : 'µ-law';
    return { ...plain, frames, coding: name, bits: null, samples: { integers } };
  }
  if (coding === 'pcm' || coding === 'float') {
    const sampleBytes = Math.ceil(bits / 8);
    const fits = coding === 'float' ? bits === 32 || bits === 64 : sampleBytes >= 1 && sampleBytes <= 4;
    if (!fits) throw new SheetError(`samples of ${bits} bits cannot be ${coding}`);
    const frames = Math.floor(bytes.length / sampleBytes / channels);
    const isFloat = coding === 'float';
    const samples = pcmSamples(bytes, channels, { ...told, sampleBytes, isFloat });
    return { ...plain, frames, coding: isFloat ? 'PCM float' : 'PCM', bits, samples };
  }
  if (told.blockBytes === null) throw new SheetError(`${coding} needs blockBytes: how long a block is`);
  return decodeWave(waveOf(bytes, coding, { ...told, blockBytes: told.blockBytes }));
}

/** The blocks within a WAV file, as the decoder of these codings wants them. */
function waveOf(
  bytes: Uint8Array,
  coding: 'ima-adpcm' | 'ms-adpcm',
  { sampleRate, channels, blockBytes }: Told & { blockBytes: number },
): Uint8Array {
  const isMs = coding === 'ms-adpcm';
  const head = isMs ? 7 : 4;
  if (blockBytes <= head * channels || blockBytes > 65_535)
    throw new SheetError(`a block of ${blockBytes} bytes cannot be`);
  const samples = ((blockBytes - head * channels) * 2) / channels + (isMs ? 2 : 1);
  const formatBytes = isMs ? 50 : 20;
  const wave = new Uint8Array(20 + formatBytes + 8 + bytes.length);
  const view = new DataView(wave.buffer);
  const letters = (at: number, text: string): void => wave.set(new TextEncoder().encode(text), at);
  letters(0, 'RIFF');
  view.setUint32(4, wave.length - 8, true);
  letters(8, 'WAVEfmt ');
  view.setUint32(16, formatBytes, true);
  view.setUint16(20, isMs ? 2 : 17, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, sampleRate, true);
  view.setUint32(28, Math.round((sampleRate * blockBytes) / samples), true);
  view.setUint16(32, blockBytes, true);
  view.setUint16(34, 4, true);
  view.setUint16(36, formatBytes - 18, true);
  view.setUint16(38, samples, true);
  if (isMs) {
    view.setUint16(40, 7, true);
    // The seven pairs of the coding (Multimedia Data Standards Update, Microsoft 1994).
    [256, 0, 512, -256, 0, 0, 192, 64, 240, 0, 460, -208, 392, -232].forEach((value, at) =>
      view.setInt16(42 + at * 2, value, true),
    );
  }
  letters(20 + formatBytes, 'data');
  view.setUint32(24 + formatBytes, bytes.length, true);
  wave.set(bytes, 28 + formatBytes);
  return wave;
}
