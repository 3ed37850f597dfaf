import { BandEnergies, bands, windowSize } from './band-energies.ts';
import type { DecodedSound } from './decoded.ts';

const slices = 16;
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

/**
 * What a sound is like, in 146 bytes: the log energy of 32 mel bands from 40 Hz to 11 kHz about their mean, that of 16
 * equal slices of time about theirs, its length and its loudness; then, of its first 1.6 seconds and of its last (counted
 * from the end), the log energy each 50 ms and of 16 bands, so that what was lengthened or cut short is still known. Whatever
 * its rate, coding and level.
 */
export function soundSignature(sound: DecodedSound): Uint8Array {
  const parts = soundSignatureParts;
  const spectrum = new BandEnergies(sound);
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
function writeEnd(
  spectrum: BandEnergies,
  begin: (window: number) => number,
  to: Uint8Array,
  at: number,
): void {
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
