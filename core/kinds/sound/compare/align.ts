import { correlation, correlationAnywhere } from '../fourier.ts';

const probeFrames = 4096;
/** Up to so many frames to either side, products are added up one by one; beyond, transforms are quicker. */
const mostByHand = 16;
/** A tone fits half a swing later too, upside down: by so much better it must, to count. */
const turnedOver = 0.03;
/** Sounds up to so many frames in all are laid over one another at every shift. */
const mostFrames = 2 ** 21;

export interface Alignment {
  /** Frames that the newer one begins later. */
  shiftFrames: number;
  /** How well the loudest stretches fit, from 0 to 1, whatever the sign. */
  fit: number;
}

/** The mean of all channels, sample by sample. */
export function meanOf(channels: readonly Float32Array[]): Float32Array {
  const [left = new Float32Array(0), right] = channels;
  const mean = new Float32Array(left.length);
  if (right && channels.length === 2) {
    for (let at = 0; at < mean.length; at++) mean[at] = ((left[at] ?? 0) + (right[at] ?? 0)) * 0.5;
    return mean;
  }
  for (const samples of channels)
    for (let at = 0; at < mean.length; at++)
      mean[at] = (mean[at] ?? 0) + (samples[at] ?? 0) / channels.length;
  return mean;
}

/** One row of samples for what several channels have: their mean, or the first where they cancel one another out. */
export function mixed(channels: readonly Float32Array[]): Float32Array {
  const [first = new Float32Array(0)] = channels;
  if (channels.length < 2) return first;
  const mean = meanOf(channels);
  return energyOf(mean) < energyOf(first) * 0.05 ? first : mean;
}

/** Of every seventh sample: enough to tell whether much is left. */
function energyOf(samples: Float32Array): number {
  let energy = 0;
  for (let at = 0; at < samples.length; at += 7) energy += (samples[at] ?? 0) ** 2;
  return energy;
}

/**
 * The shift at which two sounds fit best, to the frame: near some that are likely first, and where none of them does, at
 * every one. Of equals the smallest.
 * @param likely shifts in frames, with how far off each may be
 */
export function alignmentOf(
  old: Float32Array,
  now: Float32Array,
  likely: readonly { shift: number; slack: number }[],
): Alignment {
  let best: Alignment = { shiftFrames: 0, fit: 0 };
  const take = (found: Alignment): void => {
    if (
      found.fit > best.fit + 0.003 ||
      (found.fit > best.fit - 0.003 && Math.abs(found.shiftFrames) < Math.abs(best.shiftFrames))
    )
      best = { ...found, fit: Math.max(found.fit, best.fit) };
  };
  for (const { shift, slack } of likely) take(near(old, now, shift, slack));
  if (best.fit < 0.9 && old.length + now.length <= mostFrames) take(anywhere(old, now));
  return best;
}

/** The same of sounds of several channels: of their means, else of the two channels that fit best. */
export function alignmentOfChannels(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  likely: readonly { shift: number; slack: number }[],
): Alignment {
  const [before, after] = [mixed(old), mixed(now)];
  let best = alignmentOf(before, after, likely);
  if (best.fit > 0.9) return best;
  // Where low tones were taken away, what is left of the steps from sample to sample.
  const sharp = alignmentOf(stepsOf(before), stepsOf(after), likely);
  if (sharp.fit > best.fit + 0.02) best = sharp;
  if (best.fit > 0.95 || old.length * now.length === 1) return best;
  for (const right of now.slice(0, 2))
    for (const left of old.slice(0, 2)) {
      const found = alignmentOf(left, right, likely);
      if (found.fit > best.fit + 0.02) best = found;
      if (best.fit > 0.95) return best;
    }
  return best;
}

function stepsOf(samples: Float32Array): Float32Array {
  return samples.map((value, at) => value - (samples[at - 1] ?? 0));
}

/** The best shift around one, by the loudest stretches of the beginning, the middle and the end. */
function near(old: Float32Array, now: Float32Array, shift: number, slack: number): Alignment {
  const [from, to] = [Math.max(0, -shift), Math.min(old.length, now.length - shift)];
  if (to - from < 64) return { shiftFrames: shift, fit: 0 };
  const thirds = [0, 1, 2].map((part) =>
    loudest(old, from + ((to - from) * part) / 3, from + ((to - from) * (part + 1)) / 3),
  );
  const [products, energies] = [new Float64Array(2 * slack + 1), new Float64Array(2 * slack + 1)];
  let oldEnergy = 1e-12;
  for (const { start, length } of thirds) {
    for (let at = start; at < start + length; at++) oldEnergy += (old[at] ?? 0) ** 2;
    const from = start + shift - slack;
    const there = stretchOf(now, from, length + 2 * slack);
    const added =
      slack > mostByHand
        ? correlation(old.subarray(start, start + length), there, 2 * slack + 1)
        : productsByHand(old, start, length, there, 2 * slack + 1);
    let energy = 0;
    for (let at = 0; at < length; at++) energy += (there[at] ?? 0) ** 2;
    for (let step = 0; step <= 2 * slack; step++) {
      products[step] = (products[step] ?? 0) + (added[step] ?? 0);
      energies[step] = (energies[step] ?? 0) + energy;
      // The window moves on by a sample; what rounding leaves below nothing is nothing.
      energy = Math.max(0, energy + (there[step + length] ?? 0) ** 2 - (there[step] ?? 0) ** 2);
    }
  }
  const scores = products.map((product, step) => {
    const fit = product / Math.sqrt(oldEnergy * ((energies[step] ?? 0) + 1e-12));
    // Of what swings evenly, the shift that is likelier.
    return (fit < 0 ? -fit - turnedOver : fit) - (0.002 * Math.abs(step - slack)) / (slack + 1);
  });
  let best = slack;
  for (let step = 0; step <= 2 * slack; step++) {
    const by = (scores[step] ?? 0) - (scores[best] ?? 0);
    const isNearer = Math.abs(shift - slack + step) < Math.abs(shift - slack + best);
    if (by > 1e-6 || (by > -1e-6 && isNearer)) best = step;
  }
  return { shiftFrames: shift - slack + best, fit: scores[best] ?? 0 };
}

/** Samples from a place on; silence where there are none. */
function stretchOf(samples: Float32Array, from: number, length: number): Float32Array {
  const stretch = new Float32Array(length);
  const first = Math.max(0, from);
  const end = Math.min(samples.length, from + length);
  if (end > first) stretch.set(samples.subarray(first, end), first - from);
  return stretch;
}

function productsByHand(
  old: Float32Array,
  start: number,
  length: number,
  there: Float32Array,
  places: number,
): Float64Array {
  const products = new Float64Array(places);
  for (let place = 0; place < places; place++) {
    let product = 0;
    for (let at = 0; at < length; at++) product += (old[start + at] ?? 0) * (there[at + place] ?? 0);
    products[place] = product;
  }
  return products;
}

function loudest(samples: Float32Array, from: number, to: number): { start: number; length: number } {
  const [first, end] = [Math.floor(from), Math.floor(to)];
  const length = Math.min(probeFrames, end - first);
  let [start, most] = [first, -1];
  for (let at = first; at + length <= end; at += Math.max(1, length >> 1)) {
    let energy = 0;
    for (let frame = at; frame < at + length; frame += 5) energy += (samples[frame] ?? 0) ** 2;
    if (energy > most) [start, most] = [at, energy];
  }
  return { start, length };
}

/** The shift of the greatest correlation of all (through the Fourier transform). */
function anywhere(old: Float32Array, now: Float32Array): Alignment {
  const sums = correlationAnywhere(old, now);
  let [best, most] = [0, -1];
  for (let place = 0; place < sums.length; place++) {
    const value = Math.abs(sums[place] ?? 0);
    if (value > most) [best, most] = [place + 1 - old.length, value];
  }
  return near(old, now, best, 1);
}
