import { fourier } from './fourier.ts';
import { fullScale, type DecodedSound } from './decoded.ts';

const bands = 32;
const slices = 16;
const windowSize = 1024;
/** Of the beginning and of the end: so many windows, one after the other by a fixed time. */
const endWindows = 32;
const endSeconds = 0.05;
const endBands = 16;
const endBytes = endWindows + endBands;

/** Where each part of the signature begins, in bytes. */
export const soundSignatureParts = {
  bands: 0,
  slices: bands,
  length: bands + slices,
  loudness: bands + slices + 1,
  beginning: bands + slices + 2,
  ending: bands + slices + 2 + endBytes,
  end: bands + slices + 2 + endBytes * 2,
} as const;
/** Of long sounds, windows that are spread evenly stand for all. */
const mostWindows = 96;

// Made once: most sounds of a game are short, and there are tens of thousands of them.
const fft = fourier(windowSize);
const hann = Float64Array.from(
  { length: windowSize },
  (_, at) => 0.5 - 0.5 * Math.cos((2 * Math.PI * at) / windowSize),
);

/** Steps of the mel scale after O'Shaughnessy (1987): 2595 log10(1 + f / 700). */
const mel = (hertz: number): number => 2595 * Math.log10(1 + hertz / 700);
const hertz = (value: number): number => 700 * (10 ** (value / 2595) - 1);

/**
 * What a sound is like, in 146 bytes: the log energy of 32 mel bands from 40 Hz to 11 kHz about their mean, that of 16
 * equal slices of time about theirs, its length and its loudness; then, of its first 1.6 seconds and of its last (counted
 * from the end), the log energy each 50 ms and of 16 bands, so that what was lengthened or cut short is still known. Whatever
 * its rate, coding and level.
 */
export function soundSignature(sound: DecodedSound): Uint8Array {
  const parts = soundSignatureParts;
  const spectrum = new Spectrum(sound);
  const energies = new Float64Array(bands);
  const times = new Float64Array(slices);
  const windows = Math.max(1, Math.floor(sound.frames / windowSize));
  const step = Math.max(1, Math.ceil(windows / mostWindows));
  let seen = 0;
  for (let window = 0; window < windows; window += step, seen++) {
    const slice = Math.min(slices - 1, Math.floor((window * slices) / windows));
    times[slice] = (times[slice] ?? 0) + spectrum.add(window * windowSize, energies);
  }
  const signature = new Uint8Array(parts.end);
  writeAboutMean(energies, signature, parts.bands);
  writeAboutMean(times, signature, parts.slices);
  const total = energies.reduce((sum, value) => sum + value, 0) / seen;
  signature[parts.length] = byte(Math.log2(Math.max(0.001, sound.frames / sound.sampleRate)) * 12 + 128);
  signature[parts.loudness] = byte(Math.log2(total + 1e-9) * 4 + 128);
  const hop = sound.sampleRate * endSeconds;
  writeEnd(spectrum, (window) => window * hop, signature, parts.beginning);
  writeEnd(spectrum, (window) => sound.frames - windowSize - window * hop, signature, parts.ending);
  return signature;
}

/** One of the two ends; of what is shorter, windows of nothing. */
function writeEnd(spectrum: Spectrum, begin: (window: number) => number, to: Uint8Array, at: number): void {
  const energies = new Float64Array(bands);
  const course = Float64Array.from({ length: endWindows }, (_, window) =>
    spectrum.add(Math.round(begin(window)), energies),
  );
  writeBelowMost(course, to, at);
  const pairs = Float64Array.from(
    { length: endBands },
    (_, band) => (energies[band * 2] ?? 0) + (energies[band * 2 + 1] ?? 0),
  );
  writeBelowMost(pairs, to, at + endWindows);
}

/** Energies of mel bands, window by window. */
class Spectrum {
  private readonly input = new Float64Array(windowSize);
  private readonly output = fft.createComplexArray() as number[];
  /** First and last bin of each band. */
  private readonly bins: readonly (readonly [number, number])[];

  constructor(private readonly sound: DecodedSound) {
    const bin = (edge: number): number =>
      (hertz(mel(40) + ((mel(11_000) - mel(40)) * edge) / bands) * windowSize) / sound.sampleRate;
    this.bins = Array.from({ length: bands }, (_, band) => {
      const from = Math.max(1, Math.round(bin(band)));
      return [from, Math.max(from + 1, Math.min(windowSize / 2, Math.round(bin(band + 1))))] as const;
    });
  }

  /** Adds the energies of a window to those of the bands. @returns their sum */
  add(from: number, energies: Float64Array): number {
    const { input, output } = this;
    fillWindow(this.sound, from, input);
    fft.realTransform(output, input);
    let sum = 0;
    for (const [band, [first, after]] of this.bins.entries()) {
      let energy = 0;
      for (let bin = first; bin < after; bin++)
        energy += (output[bin * 2] ?? 0) ** 2 + (output[bin * 2 + 1] ?? 0) ** 2;
      energies[band] = (energies[band] ?? 0) + energy;
      sum += energy;
    }
    return sum;
  }
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

/** Decibels below the most, a quarter to a step; 63 and more are nothing. */
function writeBelowMost(energies: Float64Array, to: Uint8Array, at: number): void {
  const most = Math.max(1e-9, ...energies);
  energies.forEach((energy, index) => (to[at + index] = byte(255 + 40 * Math.log10(energy / most + 1e-9))));
}

function byte(value: number): number {
  return Math.max(0, Math.min(255, Math.round(value)));
}
