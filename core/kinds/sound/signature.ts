import FFT from 'fft.js';
import { fullScale, type DecodedSound } from './decoded.ts';

const bands = 32;
const slices = 16;
const windowSize = 1024;
/** Of long sounds, windows that are spread evenly stand for all. */
const mostWindows = 96;

// Made once: most sounds of a game are short, and there are tens of thousands of them.
const fft = new FFT(windowSize);
const hann = Float64Array.from(
  { length: windowSize },
  (_, at) => 0.5 - 0.5 * Math.cos((2 * Math.PI * at) / windowSize),
);

/** Steps of the mel scale after O'Shaughnessy (1987): 2595 log10(1 + f / 700). */
const mel = (hertz: number): number => 2595 * Math.log10(1 + hertz / 700);
const hertz = (value: number): number => 700 * (10 ** (value / 2595) - 1);

/**
 * What a sound is like, in 50 bytes: the log energy of 32 mel bands from 40 Hz to 11 kHz about their mean, that of 16
 * equal slices of time about theirs, then its length and its loudness. Whatever its rate, coding and level.
 */
export function soundSignature(sound: DecodedSound): Uint8Array {
  const input = new Float64Array(windowSize);
  const output = fft.createComplexArray() as number[];
  const energies = new Float64Array(bands);
  const times = new Float64Array(slices);
  const edges = Array.from({ length: bands + 1 }, (_, band) => {
    const frequency = hertz(mel(40) + ((mel(11_000) - mel(40)) * band) / bands);
    return (frequency * windowSize) / sound.sampleRate;
  });
  const windows = Math.max(1, Math.floor(sound.frames / windowSize));
  const step = Math.max(1, Math.ceil(windows / mostWindows));
  let seen = 0;
  for (let window = 0; window < windows; window += step, seen++) {
    fillWindow(sound, window * windowSize, input);
    fft.realTransform(output, input);
    const slice = Math.min(slices - 1, Math.floor((window * slices) / windows));
    for (let band = 0; band < bands; band++) {
      let energy = 0;
      const from = Math.max(1, Math.round(edges[band] ?? 0));
      const to = Math.max(from + 1, Math.min(windowSize / 2, Math.round(edges[band + 1] ?? 0)));
      for (let bin = from; bin < to; bin++)
        energy += (output[bin * 2] ?? 0) ** 2 + (output[bin * 2 + 1] ?? 0) ** 2;
      energies[band] = (energies[band] ?? 0) + energy;
      times[slice] = (times[slice] ?? 0) + energy;
    }
  }
  const signature = new Uint8Array(bands + slices + 2);
  writeAboutMean(energies, signature, 0);
  writeAboutMean(times, signature, bands);
  const total = energies.reduce((sum, value) => sum + value, 0) / seen;
  signature[bands + slices] = byte(Math.log2(Math.max(0.001, sound.frames / sound.sampleRate)) * 12 + 128);
  signature[bands + slices + 1] = byte(Math.log2(total + 1e-9) * 4 + 128);
  return signature;
}

/** The sum of all channels from a frame on, under the window, read off as they lie. */
function fillWindow({ channels, samples }: DecodedSound, from: number, input: Float64Array): void {
  input.fill(0);
  if ('floats' in samples) {
    for (const floats of samples.floats)
      for (let at = 0; at < windowSize; at++) input[at] = (input[at] ?? 0) + (floats[from + at] ?? 0);
  } else {
    const { integers } = samples;
    const scale = 1 / fullScale(integers);
    for (let channel = 0; channel < channels; channel++) {
      let place = from * channels + channel;
      for (let at = 0; at < windowSize; at++, place += channels)
        input[at] = (input[at] ?? 0) + (integers[place] ?? 0) * scale;
    }
  }
  for (let at = 0; at < windowSize; at++) input[at] = (input[at] ?? 0) * (hann[at] ?? 0);
}

/** Decibels about their mean, half a decibel to a step. */
function writeAboutMean(energies: Float64Array, to: Uint8Array, at: number): void {
  const levels = Array.from(energies, (energy) => 10 * Math.log10(energy + 1e-9));
  const mean = levels.reduce((sum, level) => sum + level, 0) / levels.length;
  levels.forEach((level, index) => (to[at + index] = byte((level - mean) * 2 + 128)));
}

function byte(value: number): number {
  return Math.max(0, Math.min(255, Math.round(value)));
}
