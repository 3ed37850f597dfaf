import FFT from 'fft.js';

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
  const fft = new FFT(size);
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
  const level = `${decibels.toFixed(1).replace('-', '−')} dBFS`;
  if (around(best) > total * 0.35 && tones > total * 0.6) {
    const hertz = (best * sampleRate) / size;
    return {
      words: `a ${hertz < 200 ? 'hum' : 'tone'} of ${Number(hertz.toPrecision(3))} Hz added, at ${level}`,
      decibels,
    };
  }
  return { words: `noise added, at ${level}`, decibels };
}

export interface Echo {
  words: string;
}

/** Whether what is left is the older sound once more, some time later. */
export function echoOf(left: Float32Array, said: Float32Array, sampleRate: number): Echo | null {
  const length = Math.min(left.length, said.length, 2 ** 19);
  const size = 2 ** Math.ceil(Math.log2(Math.max(4, length * 2)));
  const fft = new FFT(size);
  const transformed = (samples: Float32Array): number[] => {
    const input = new Float64Array(size);
    input.set(samples.subarray(0, length));
    const output = fft.createComplexArray() as number[];
    fft.realTransform(output, input);
    fft.completeSpectrum(output);
    return output;
  };
  const [a, b] = [transformed(said), transformed(left)];
  for (let at = 0; at < size * 2; at += 2) {
    const [ar = 0, ai = 0, br = 0, bi = 0] = [a[at], a[at + 1], b[at], b[at + 1]];
    // Whitened, so that a sound's own swings are no echo (Knapp and Carter, 1976).
    const length2 = Math.hypot(ar, ai) * Math.hypot(br, bi) + 1e-20;
    b[at] = (br * ar + bi * ai) / length2;
    b[at + 1] = (bi * ar - br * ai) / length2;
  }
  fft.inverseTransform(a, b);
  const least = Math.round(sampleRate * 0.01);
  let [best, most] = [0, 0];
  for (let lag = least; lag < length; lag++) {
    const value = Math.abs(a[lag * 2] ?? 0);
    if (value > most) [best, most] = [lag, value];
  }
  return most > 0.25 ? { words: `an echo of it after ${Math.round((best / sampleRate) * 1000)} ms` } : null;
}
