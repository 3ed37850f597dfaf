import { pcmSamples } from '../../kinds/sound/pcm.ts';
import { writeShownWave } from '../../kinds/sound/write/shown-wave.ts';
import type { SampleGuess } from './images.ts';

/** Half of what a compact disc has: a guess of the rate that is off by two is still told from noise. */
const sampleRate = 22_050;
const mostSeconds = 6;

/** The beginning of bytes as they would sound, as WAV. */
export function waveOf(
  bytes: Uint8Array,
  { bits, channels, isSigned, isLittle }: SampleGuess,
): Uint8Array<ArrayBuffer> {
  const sampleBytes = bits / 8;
  const heard = bytes.slice(0, sampleRate * mostSeconds * channels * sampleBytes);
  const samples = pcmSamples(heard, channels, {
    ...{ bits, sampleBytes, isSigned, isBigEndian: !isLittle, isFloat: false },
  });
  const frames = Math.floor(heard.length / sampleBytes / channels);
  const sound = { sampleRate, channels, frames, coding: 'PCM', bits, damage: null, samples };
  return writeShownWave(sound) as Uint8Array<ArrayBuffer>;
}
