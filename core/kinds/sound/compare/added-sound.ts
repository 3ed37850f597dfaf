import { correlationAnywhere, fourier } from '../fourier.ts';
import type { Transfer } from './spectra.ts';

/** What was laid over a sound. */
export interface AddedSound {
  words: string;
  decibels: number;
}

const largest = 2 ** 15;

/**
 * What is left of a sound once the older one is taken out, in words: a steady tone, or noise.
 * @param left samples, 1 being full scale
 */
export function describeAdded(left: Float32Array, sampleRate: number): AddedSound | null {
  let energy = 0;
  for (const value of left) energy += value * value;
  const power = energy / Math.max(1, left.length);
  if (power < 1e-12) return null;
  const decibels = 10 * Math.log10(power);
  const size = Math.min(largest, 2 ** Math.floor(Math.log2(Math.max(256, left.length))));
  const fft = fourier(size);
  const input = new Float64Array(size);
  const output = fft.createComplexArray() as number[];
  const powers = new Float64Array(size / 2);
  const count = Math.max(1, Math.floor(left.length / size));
  for (let part = 0; part < Math.min(count, 60); part++) {
    for (let at = 0; at < size; at++)
      input[at] = (left[part * size + at] ?? 0) * (0.5 - 0.5 * Math.cos((2 * Math.PI * at) / size));
    fft.realTransform(output, input);
    for (let bin = 1; bin < size / 2; bin++)
      powers[bin] = (powers[bin] ?? 0) + (output[bin * 2] ?? 0) ** 2 + (output[bin * 2 + 1] ?? 0) ** 2;
  }
  let [total, best] = [0, 1];
  powers.forEach((value, bin) => {
    total += value;
    if (value > (powers[best] ?? 0)) best = bin;
  });
  const around = (bin: number): number => {
    let sum = 0;
    for (let at = Math.max(1, bin - 3); at <= bin + 3; at++) sum += powers[at] ?? 0;
    return sum;
  };
  let tones = 0;
  for (let harmonic = 1; harmonic <= 6; harmonic++) tones += around(best * harmonic);
  if (around(best) > total * 0.35 && tones > total * 0.6)
    return { words: toneText(((best + betweenBins(powers, best)) * sampleRate) / size, decibels), decibels };
  return { words: `noise added, at ${levelText(decibels)}`, decibels };
}

/** A tone stands out of what loss leaves where it is so much of that, and where the older sound had so much less. */
const [toneShare, toneAbove] = [0.4, 8];
/** Where it is nearly all of it, the older sound may have had as much there of its own. */
const [nearlyAll, aboveOfAll] = [0.9, 0.5];
/** What is softer than this beside the rest is not heard: packers leave as much. */
const leastTone = 1e-5;

/** A steady tone that lies over a sound packed with loss, in words; null where there is none. */
export function addedTone({ step, a, b, real, imaginary }: Transfer, samples: Float32Array): string | null {
  let [total, all, best] = [0, 0, 1];
  const own = b.map((power, bin) => {
    const common = ((real[bin] ?? 0) ** 2 + (imaginary[bin] ?? 0) ** 2) / Math.max(1e-30, a[bin] ?? 0);
    return Math.max(0, power - common);
  });
  own.forEach((power, bin) => {
    total += power;
    all += b[bin] ?? 0;
    if (power > (own[best] ?? 0)) best = bin;
  });
  const around = (powers: Float64Array): number =>
    (powers[best - 1] ?? 0) + (powers[best] ?? 0) + (powers[best + 1] ?? 0);
  const [there, before] = [around(own), around(a)];
  const above = there > total * nearlyAll ? aboveOfAll : toneAbove;
  if (there < total * toneShare || there < before * above || there < all * leastTone) return null;
  let energy = 0;
  for (const value of samples) energy += value * value;
  const decibels = 10 * Math.log10((energy / Math.max(1, samples.length)) * (there / all) + 1e-12);
  return toneText((best + betweenBins(own, best)) * step, decibels);
}

/** How far from a bin a tone is, in bins, by its neighbours under Hann's window (Grandke, 1983). */
function betweenBins(powers: ArrayLike<number>, bin: number): number {
  const [below, at, above] = [-1, 0, 1].map((side) => Math.sqrt(powers[bin + side] ?? 0)) as [
    number,
    number,
    number,
  ];
  const ratio = Math.max(below, above) / Math.max(1e-15, at);
  const offset = Math.max(0, Math.min(0.5, (2 * ratio - 1) / (ratio + 1)));
  return above >= below ? offset : -offset;
}

function toneText(hertz: number, decibels: number): string {
  return `a ${hertz < 200 ? 'hum' : 'tone'} of ${Number(hertz.toPrecision(hertz < 200 ? 2 : 3))} Hz added, at ${levelText(decibels)}`;
}

function levelText(decibels: number): string {
  return `${decibels.toFixed(1).replace('-', '−')} dBFS`;
}

export interface Echo {
  words: string;
}

/** Whether what is left is the older sound once more, some time later. */
export function echoOf(left: Float32Array, said: Float32Array, sampleRate: number): Echo | null {
  const length = Math.min(left.length, said.length, 2 ** 19);
  const sums = correlationAnywhere(said.subarray(0, length), left.subarray(0, length), true);
  const least = Math.round(sampleRate * 0.01);
  let [best, most] = [0, 0];
  for (let lag = least; lag < length; lag++) {
    const value = Math.abs(sums[lag + length - 1] ?? 0);
    if (value > most) [best, most] = [lag, value];
  }
  return most > 0.25 ? { words: `an echo of it after ${Math.round((best / sampleRate) * 1000)} ms` } : null;
}
