import type FFT from 'fft.js';
import { bands, BandEnergies, edgeBin, windowSize } from '../band-energies.ts';
import { fourier } from '../fourier.ts';

/** Quieter than this below the loudest is the floor: what is there is not heard. */
const floorDecibels = 70;

/** What is no more than this below the loudest counts in full. */
const quietDecibels = 12;

/** Loudness in bands of the mel scale (O'Shaughnessy, 1987) along time. */
export interface Pattern {
  /** Decibels, band by band for each step of time. */
  levels: Float32Array;
  steps: number;
  stepSeconds: number;
}

/** @param channels of one length, 1 being full scale: their mean is what is looked at */
export function patternOf(
  channels: readonly Float32Array[],
  sampleRate: number,
  stepSeconds: number,
): Pattern {
  const hop = sampleRate * stepSeconds;
  const size = 2 ** Math.round(Math.log2(Math.max(64, sampleRate * 0.025)));
  const frames = channels[0]?.length ?? 0;
  const steps = Math.max(1, Math.floor(frames / hop));
  const levels = new Float32Array(steps * bands);
  // Of the usual rates the windows are those by which sounds are told from one another, whose bands are these.
  const sound = { sampleRate, channels: channels.length, frames, samples: { floats: channels } };
  const found = size === windowSize && channels.length > 0 ? new BandEnergies(sound) : null;
  const addTo = found
    ? (from: number, energies: Float64Array): unknown => found.add(from, energies)
    : windowsOf(channels, sampleRate, size);
  const energies = new Float64Array(bands);
  // Of the mean of all channels, not of their sum.
  const scale = 1 / (size * Math.max(1, channels.length)) ** 2;
  let loudest = -Infinity;
  for (let step = 0; step < steps; step++) {
    energies.fill(0);
    addTo(Math.round(step * hop + hop / 2 - size / 2), energies);
    for (let band = 0; band < bands; band++) {
      const level = 10 * Math.log10((energies[band] ?? 0) * scale + 1e-13);
      levels[step * bands + band] = level;
      if (level > loudest) loudest = level;
    }
  }
  const floor = loudest - floorDecibels;
  for (let at = 0; at < levels.length; at++) levels[at] = Math.max(floor, levels[at] ?? floor);
  return { levels, steps, stepSeconds };
}

/** Energies of the bands of windows of any size, of the sum of all channels. */
function windowsOf(
  channels: readonly Float32Array[],
  sampleRate: number,
  size: number,
): (from: number, energies: Float64Array) => void {
  const fft = fourier(size);
  const window = Float64Array.from(
    { length: size },
    (_, at) => 0.5 - 0.5 * Math.cos((2 * Math.PI * at) / size),
  );
  const input = new Float64Array(size);
  const output = fft.createComplexArray() as number[];
  const edges = Int32Array.from({ length: bands + 1 }, (_, band) =>
    Math.min(size / 2, Math.max(1, Math.round(edgeBin(band, size, sampleRate)))),
  );
  return (from, energies) => {
    input.fill(0);
    for (const samples of channels)
      for (let at = 0; at < size; at++) input[at] = (input[at] ?? 0) + (samples[from + at] ?? 0);
    for (let at = 0; at < size; at++) input[at] = (input[at] ?? 0) * (window[at] ?? 0);
    fft.realTransform(output, input);
    for (let band = 0; band < bands; band++) {
      const first = edges[band] ?? 0;
      for (let bin = first; bin < Math.max(first + 1, edges[band + 1] ?? 0); bin++)
        energies[band] =
          (energies[band] ?? 0) + (output[bin * 2] ?? 0) ** 2 + (output[bin * 2 + 1] ?? 0) ** 2;
    }
  };
}

/**
 * How many steps later the newer one has what the older one has: where the risings and fallings of all bands fit best.
 * Their levels alone would not do: of a sound that only fades, all that fades is alike at every shift.
 */
export function lagOf(old: Pattern, now: Pattern): number {
  const size = 2 ** Math.ceil(Math.log2(old.steps + now.steps + 1));
  if (size < 4) return 0;
  const fft = fourier(size);
  const input = new Float64Array(size);
  const [a, b, product] = [
    fft.createComplexArray(),
    fft.createComplexArray(),
    fft.createComplexArray(),
  ] as number[][] as [number[], number[], number[]];
  for (let band = 0; band < bands; band++) {
    transformChanges(fft, old, band, input, a);
    transformChanges(fft, now, band, input, b);
    for (let at = 0; at < size * 2; at += 2) {
      const ar = a[at] ?? 0,
        ai = a[at + 1] ?? 0,
        br = b[at] ?? 0,
        bi = b[at + 1] ?? 0;
      product[at] = (product[at] ?? 0) + br * ar + bi * ai;
      product[at + 1] = (product[at + 1] ?? 0) + bi * ar - br * ai;
    }
  }
  const result = fft.createComplexArray() as number[];
  fft.inverseTransform(result, product);
  let best = 0;
  for (let lag = -(old.steps - 1); lag < now.steps; lag++) {
    const place = lag < 0 ? lag + size : lag;
    const bestPlace = best < 0 ? best + size : best;
    // Of equals the smaller shift.
    const by = (result[place * 2] ?? 0) - (result[bestPlace * 2] ?? 0);
    if (by > 1e-6 || (Math.abs(by) <= 1e-6 && Math.abs(lag) < Math.abs(best))) best = lag;
  }
  return best;
}

/** Transforms how the level of a band changes from step to step. */
function transformChanges(
  fft: FFT,
  { levels, steps }: Pattern,
  band: number,
  input: Float64Array,
  output: number[],
): void {
  input.fill(0);
  for (let step = 1; step < steps; step++)
    input[step] = (levels[step * bands + band] ?? 0) - (levels[(step - 1) * bands + band] ?? 0);
  fft.realTransform(output, input);
  fft.completeSpectrum(output);
}

export interface PatternDifference {
  /** Correlation over all that overlaps, each band about its mean. */
  likeness: number;
  /** Median of how much louder the newer one is. */
  gainDecibels: number;
  /** The same for each band. */
  bandGains: Float64Array;
  /** Mean step of a band in each step of time, once gain and bands are taken out; of the newer one's steps. */
  residuals: Float32Array;
  overlap: number;
}

/** Compares what overlaps once the newer one is shifted by a lag. */
export function patternDifference(old: Pattern, now: Pattern, lag: number): PatternDifference {
  const from = Math.max(0, lag);
  const to = Math.min(now.steps, old.steps + lag);
  const overlap = Math.max(0, to - from);
  const differences: number[][] = Array.from({ length: bands }, () => []);
  const floors = [floorOf(old), floorOf(now)] as const;
  const pair = (step: number, band: number): readonly [number, number] => [
    old.levels[(step - lag) * bands + band] ?? 0,
    now.levels[step * bands + band] ?? 0,
  ];
  for (let step = from; step < to; step++)
    for (let band = 0; band < bands; band++) {
      const [before, after] = pair(step, band);
      if (before > floors[0] + 20) differences[band]?.push(after - before);
    }
  const gainDecibels = median(differences.flat());
  const bandGains = Float64Array.from(differences, (values) =>
    values.length >= Math.max(3, overlap * 0.05) ? median(values) : gainDecibels,
  );
  const residuals = new Float32Array(now.steps).fill(NaN);
  for (let step = from; step < to; step++) {
    let [sum, weight, loudest] = [0, 0, -Infinity];
    const expectedAt = (band: number): number =>
      Math.max(floors[1], pair(step, band)[0] + (bandGains[band] ?? 0));
    for (let band = 0; band < bands; band++)
      loudest = Math.max(loudest, expectedAt(band), pair(step, band)[1]);
    for (let band = 0; band < bands; band++) {
      const after = pair(step, band)[1];
      const expected = expectedAt(band);
      // Ten decibels less are heard half as loud (common practice, no published source).
      const heard = 2 ** ((Math.max(expected, after) - loudest) / 10);
      sum += Math.abs(after - expected) * heard;
      weight += heard;
    }
    // So with what is quiet beside the rest: packers save there.
    residuals[step] =
      (sum / weight) * Math.min(1, 2 ** ((loudest - floors[1] - floorDecibels + quietDecibels) / 10));
  }
  return { likeness: likenessOf(old, now, lag, from, to), gainDecibels, bandGains, residuals, overlap };
}

function floorOf({ levels }: Pattern): number {
  let floor = Infinity;
  for (const level of levels) if (level < floor) floor = level;
  return floor;
}

function likenessOf(old: Pattern, now: Pattern, lag: number, from: number, to: number): number {
  const means = [new Float64Array(bands), new Float64Array(bands)] as const;
  for (let step = from; step < to; step++)
    for (let band = 0; band < bands; band++) {
      means[0][band] = (means[0][band] ?? 0) + (old.levels[(step - lag) * bands + band] ?? 0) / (to - from);
      means[1][band] = (means[1][band] ?? 0) + (now.levels[step * bands + band] ?? 0) / (to - from);
    }
  const whole = [
    means[0].reduce((sum, value) => sum + value / bands, 0),
    means[1].reduce((sum, value) => sum + value / bands, 0),
  ] as const;
  let [products, a2, b2] = [0, 0, 0];
  for (let step = from; step < to; step++)
    for (let band = 0; band < bands; band++) {
      const a = (old.levels[(step - lag) * bands + band] ?? 0) - whole[0];
      const b = (now.levels[step * bands + band] ?? 0) - whole[1];
      products += a * b;
      a2 += a * a;
      b2 += b * b;
    }
  return a2 * b2 > 0 ? products / Math.sqrt(a2 * b2) : a2 === b2 ? 1 : 0;
}

function median(values: number[]): number {
  if (values.length === 0) return 0;
  values.sort((a, b) => a - b);
  return values[values.length >> 1] ?? 0;
}
