import { fourier } from '../fourier.ts';

/** Lowest and highest sample of each of so many equal slices: low, high, low, high … */
export function extremesOf(samples: Float32Array, slices: number): Float32Array {
  const extremes = new Float32Array(slices * 2);
  for (let slice = 0; slice < slices; slice++) {
    const from = Math.floor((slice / slices) * samples.length);
    const to = Math.max(from + 1, Math.floor(((slice + 1) / slices) * samples.length));
    let [low, high] = [Infinity, -Infinity];
    for (let at = from; at < to && at < samples.length; at++) {
      const value = samples[at] ?? 0;
      if (value < low) low = value;
      if (value > high) high = value;
    }
    extremes[slice * 2] = low === Infinity ? 0 : low;
    extremes[slice * 2 + 1] = high === -Infinity ? 0 : high;
  }
  return extremes;
}

/** Levels of tones over time: a row to a tone, the lowest last; a column to a moment. */
export interface ToneLevels {
  width: number;
  height: number;
  /** 0 for `floorDecibels` below full scale and less, 255 for full scale. */
  values: Uint8Array;
  /** Hertz in the middle of each row, from the first, which is the highest. */
  tones: Float32Array;
}

const windowFrames = 2048;
const lowestHertz = 40;
export const floorDecibels = 96;

/**
 * Levels of tones over time, the tones spread evenly by pitch from 40 Hz to half the rate: a Hann window of 2,048 frames,
 * power spectrum, the strongest of what falls into a row. A sine of full scale comes to 0 dB.
 */
export function toneLevels(
  samples: Float32Array,
  sampleRate: number,
  width: number,
  height: number,
): ToneLevels {
  const fft = fourier(windowFrames);
  const taper = Float64Array.from(
    { length: windowFrames },
    (_, at) => 0.5 - 0.5 * Math.cos((2 * Math.PI * at) / windowFrames),
  );
  // A sine of full scale has half the window's sum as its height.
  const whole = taper.reduce((sum, value) => sum + value, 0) / 2;
  const highest = sampleRate / 2;
  const low = Math.min(lowestHertz, highest / 2);
  const edge = (row: number): number => low * (highest / low) ** (row / height);
  const binHertz = sampleRate / windowFrames;
  const rows = Array.from({ length: height }, (_, row) => {
    // From the lowest, as bins are.
    const from = Math.round(edge(row) / binHertz);
    return { from, to: Math.max(from, Math.round(edge(row + 1) / binHertz) - 1) };
  });
  const values = new Uint8Array(width * height);
  const input = new Float64Array(windowFrames);
  const spectrum = fft.createComplexArray();
  for (let column = 0; column < width; column++) {
    const middle = Math.round(((column + 0.5) / width) * samples.length);
    for (let at = 0; at < windowFrames; at++)
      input[at] = (samples[middle - windowFrames / 2 + at] ?? 0) * (taper[at] ?? 0);
    fft.realTransform(spectrum, input);
    rows.forEach(({ from, to }, row) => {
      let power = 0;
      for (let bin = from; bin <= Math.min(to, windowFrames / 2); bin++)
        power = Math.max(power, (spectrum[bin * 2] ?? 0) ** 2 + (spectrum[bin * 2 + 1] ?? 0) ** 2);
      const decibels = 10 * Math.log10(power / whole ** 2 + 1e-12);
      values[(height - 1 - row) * width + column] = Math.max(
        0,
        Math.min(255, Math.round((1 + decibels / floorDecibels) * 255)),
      );
    });
  }
  const tones = Float32Array.from({ length: height }, (_, row) =>
    Math.sqrt(edge(height - 1 - row) * edge(height - row)),
  );
  return { width, height, values, tones };
}
