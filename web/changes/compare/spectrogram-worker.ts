import { bands } from '../../../core/kinds/sound/band-energies.ts';
import {
  lagOf,
  patternDifference,
  patternOf,
  type Pattern,
} from '../../../core/kinds/sound/compare/pattern.ts';

export interface SpectrogramRequest {
  old: Float32Array;
  now: Float32Array;
  rates: readonly [number, number];
}

/** Grey pictures, a row to a band with the lowest at the bottom, a column to a step: 0 quiet, 255 loud. */
export interface Spectrogram {
  width: number;
  height: number;
  values: Uint8Array;
}

export interface SpectrogramAnswer {
  old: Spectrogram;
  now: Spectrogram;
  /** How many decibels each band differs, once level and filter are taken out: 255 for 30 and more. In the newer one's time. */
  difference: Spectrogram;
  stepSeconds: number;
}

const mostColumns = 1200;

/** A thread that makes the spectrograms of two sounds, and of what differs. */
self.onmessage = ({ data: { old, now, rates } }: MessageEvent<SpectrogramRequest>): void => {
  const seconds = Math.max(old.length / rates[0], now.length / rates[1]);
  const stepSeconds = Math.max(0.005, seconds / mostColumns);
  const [before, after] = [patternOf([old], rates[0], stepSeconds), patternOf([now], rates[1], stepSeconds)];
  const lag = lagOf(before, after);
  const { bandGains } = patternDifference(before, after, lag);
  const difference: Spectrogram = {
    width: after.steps,
    height: bands,
    values: new Uint8Array(after.steps * bands),
  };
  for (let step = 0; step < after.steps; step++)
    for (let band = 0; band < bands; band++) {
      const there = step - lag;
      const level = after.levels[step * bands + band] ?? 0;
      const expected =
        there >= 0 && there < before.steps
          ? (before.levels[there * bands + band] ?? 0) + (bandGains[band] ?? 0)
          : -Infinity;
      const by = expected === -Infinity ? 30 : Math.abs(level - expected);
      difference.values[(bands - 1 - band) * after.steps + step] = Math.min(255, (by / 30) * 255);
    }
  (self as unknown as Worker).postMessage({
    old: drawn(before),
    now: drawn(after),
    difference,
    stepSeconds,
  } satisfies SpectrogramAnswer);
};

function drawn({ levels, steps }: Pattern): Spectrogram {
  let [low, high] = [Infinity, -Infinity];
  for (const level of levels) {
    low = Math.min(low, level);
    high = Math.max(high, level);
  }
  const values = new Uint8Array(steps * bands);
  for (let step = 0; step < steps; step++)
    for (let band = 0; band < bands; band++)
      values[(bands - 1 - band) * steps + step] =
        (((levels[step * bands + band] ?? low) - low) / Math.max(1, high - low)) * 255;
  return { width: steps, height: bands, values };
}
