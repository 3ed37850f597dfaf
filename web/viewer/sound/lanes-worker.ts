import { integratedLoudness, momentaryLoudness, truePeak } from '../../../core/kinds/sound/loudness.ts';
import { extremesOf, toneLevels, type ToneLevels } from '../../../core/kinds/sound/view/lanes.ts';

export interface LanesRequest {
  channels: readonly Float32Array[];
  sampleRate: number;
}

/** What a sound looks like. */
export interface SoundLanes {
  /** Channel by channel: low, high, low, high … */
  extremes: Float32Array[];
  tones: ToneLevels;
  /** LUFS of each block of 400 ms, one begun every 100 ms. */
  momentary: Float32Array;
  /** LUFS of the whole; null of silence. */
  integrated: number | null;
  /** True peak of the whole in dBTP; null of silence. */
  peak: number | null;
}

const [slices, columns, rows] = [1600, 900, 128];

/** A thread that works out what a sound looks like. */
self.onmessage = ({ data: { channels, sampleRate } }: MessageEvent<LanesRequest>): void => {
  const [first = new Float32Array(0)] = channels;
  const mixed =
    channels.length < 2
      ? first
      : Float32Array.from(first, (_, at) => {
          let sum = 0;
          for (const samples of channels) sum += samples[at] ?? 0;
          return sum / channels.length;
        });
  (self as unknown as Worker).postMessage({
    extremes: channels.map((samples) => extremesOf(samples, Math.min(slices, Math.max(1, samples.length)))),
    tones: toneLevels(mixed, sampleRate, Math.max(1, Math.min(columns, Math.ceil(mixed.length / 128))), rows),
    momentary: momentaryLoudness(channels, sampleRate),
    integrated: integratedLoudness(channels, sampleRate),
    peak: truePeak(channels),
  } satisfies SoundLanes);
};
