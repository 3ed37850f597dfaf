import { fourier } from '../fourier.ts';
import { blockSeconds, type BlockSums } from './block-sums.ts';
import type { MixtureFit } from './mixture.ts';
import { timeText } from './times.ts';

export interface GainCurve {
  words: string;
  /** Of the middle of all gains. */
  gainDecibels: number;
}

/** So little is left once each block has a gain of its own, in decibels. */
const leftDecibels = -24;
/** By so many decibels less is left than by one gain for all. */
const leastBetter = 7;

/** How loudness was changed along time, where that is all that was done; null where it is not. */
export function gainCurveOf(sums: BlockSums, { energies }: MixtureFit): GainCurve | null {
  const gains: number[] = [];
  const heard: number[] = [];
  let [left, all, leftByOne] = [0, 0, 0];
  const loudest = Math.max(...energies.map(({ said, frames }) => said / Math.max(1, frames)));
  for (const { said, both, there, frames } of energies) {
    all += there;
    leftByOne += Math.max(0, there - 2 * both + said);
    if (said / Math.max(1, frames) < loudest * 1e-5) {
      left += there;
      gains.push(NaN);
      continue;
    }
    const gain = both / said;
    gains.push(gain);
    heard.push(gain);
    left += Math.max(0, there - gain * both);
  }
  if (heard.length < 8 || all === 0 || 10 * Math.log10(left / all + 1e-12) > leftDecibels) return null;
  // Where one gain for all leaves hardly more, it is no curve.
  if (10 * Math.log10((leftByOne + 1e-12) / (left + 1e-12)) < leastBetter) return null;
  const sorted = [...heard].sort((a, b) => a - b);
  const middle = sorted[sorted.length >> 1] ?? 1;
  const [low, high] = [
    sorted[Math.floor(sorted.length * 0.05)] ?? 1,
    sorted[Math.floor(sorted.length * 0.95)] ?? 1,
  ];
  const decibels = (gain: number): number => 20 * Math.log10(Math.max(1e-4, Math.abs(gain)));
  if (high - low < 0.06 * Math.max(Math.abs(middle), 1e-3)) return null;
  const gainDecibels = decibels(middle);
  const tremolo = tremoloOf(gains, middle);
  if (tremolo)
    return {
      words: `a tremolo of ${tremolo.hertz.toFixed(tremolo.hertz < 10 ? 1 : 0)} Hz on it`,
      gainDecibels,
    };
  const seconds = sums.blocks * blockSeconds;
  const filled = gains.map((gain) => (Number.isNaN(gain) ? middle : gain));
  const part = (share: number): number => {
    const at = Math.round(share * (filled.length - 1));
    const around = filled.slice(Math.max(0, at - 2), at + 3);
    return around.reduce((sum, gain) => sum + gain, 0) / Math.max(1, around.length);
  };
  const steps = Array.from({ length: 21 }, (_, at) => part(at / 20));
  const rises = steps.filter((gain, at) => at > 0 && gain > (steps[at - 1] ?? 0) - 0.02 * high).length;
  const falls = steps.filter((gain, at) => at > 0 && gain < (steps[at - 1] ?? 0) + 0.02 * high).length;
  if (rises >= 19 && part(0) < 0.25 * part(1))
    return { words: `fading in over ${timeText(seconds)}`, gainDecibels };
  if (falls >= 19 && part(1) < 0.25 * part(0))
    return { words: `fading out over ${timeText(seconds)}`, gainDecibels };
  const range = [decibels(low), decibels(high)] as const;
  const loudGain = gainOfLoud(energies);
  const isCompressed = loudGain !== null && loudGain.loud < loudGain.quiet * 0.9;
  return {
    words: `${isCompressed ? 'with less between loud and quiet' : 'with other loudness along time'}, from ${signed(range[0])} to ${signed(range[1])} dB`,
    gainDecibels,
  };
}

function signed(decibels: number): string {
  return `${decibels < 0 ? '−' : '+'}${Math.abs(decibels).toFixed(1)}`;
}

/** Mean gains of the loudest and of the quietest fifth of what is heard. */
function gainOfLoud(energies: MixtureFit['energies']): { loud: number; quiet: number } | null {
  const heard = energies
    .filter(({ said }) => said > 0)
    .map(({ said, both }) => ({ said, gain: Math.abs(both / said) }))
    .sort((a, b) => a.said - b.said);
  const fifth = Math.floor(heard.length / 5);
  if (fifth < 3) return null;
  const mean = (some: typeof heard): number => some.reduce((sum, { gain }) => sum + gain, 0) / some.length;
  return { quiet: mean(heard.slice(fifth, 2 * fifth)), loud: mean(heard.slice(-fifth)) };
}

/** A gain that swings evenly: most of its changes are of one frequency. */
function tremoloOf(gains: readonly number[], middle: number): { hertz: number } | null {
  const size = 2 ** Math.floor(Math.log2(Math.max(64, gains.length * 4)));
  if (gains.length < 40) return null;
  const fft = fourier(size);
  const input = new Float64Array(size);
  const filled = gains.map((gain) => (Number.isNaN(gain) ? middle : Math.min(4 * Math.abs(middle), gain)));
  const mean = filled.reduce((sum, gain) => sum + gain, 0) / filled.length;
  filled.slice(0, size).forEach((gain, at) => {
    input[at] = (gain - mean) * (0.5 - 0.5 * Math.cos((2 * Math.PI * at) / Math.min(size, filled.length)));
  });
  const output = fft.createComplexArray() as number[];
  fft.realTransform(output, input);
  const powers = Array.from({ length: size / 2 }, (_, bin) =>
    bin === 0 ? 0 : (output[bin * 2] ?? 0) ** 2 + (output[bin * 2 + 1] ?? 0) ** 2,
  );
  const total = powers.reduce((sum, power) => sum + power, 0);
  const best = powers.indexOf(Math.max(...powers));
  const width = Math.ceil((2.2 * size) / Math.min(size, filled.length));
  let near = 0;
  for (let bin = Math.max(1, best - width); bin <= Math.min(powers.length - 1, best + width); bin++)
    near += powers[bin] ?? 0;
  const hertz = best / (size * blockSeconds);
  // Slower than twice in all is no swing.
  return total > 0 && near > total * 0.6 && hertz * gains.length * blockSeconds > 2.5 ? { hertz } : null;
}
