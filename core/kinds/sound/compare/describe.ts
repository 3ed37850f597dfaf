import type { Nature } from '../../../../contract/comparisons.ts';
import { plural, secondsText } from '../../../figures.ts';
import { bands, type PatternDifference } from './pattern.ts';
import type { SampleRelation } from './samples.ts';

/** How one of two sounds lies upon the other. */
export interface Alignment {
  shiftSeconds: number;
  gainDecibels: number;
  oldSeconds: number;
  newSeconds: number;
}

export function describeSound(
  nature: Nature,
  { bandGains, gainDecibels: median }: PatternDifference,
  ranges: readonly { from: number; to: number }[],
  { shiftSeconds, gainDecibels, oldSeconds, newSeconds }: Alignment,
  exact: SampleRelation | null,
): string[] {
  const parts: string[] = [];
  const louder = `${Math.abs(gainDecibels).toFixed(1)} dB ${gainDecibels > 0 ? 'louder' : 'quieter'}`;
  const isInverted = exact !== null && exact.gain < 0 && exact.signalToResidual > 50;
  switch (nature) {
    case 'same':
      return ['the same samples'];
    case 'recompressed':
      return ['the same sound, packed otherwise'];
    case 'louder':
      parts.push(`the same sound, ${isInverted ? 'turned over, ' : ''}${louder}`);
      break;
    case 'filtered':
      parts.push(`the same sound, ${describeFilter(bandGains, median)}`);
      break;
    case 'trimmed':
    case 'shifted':
      parts.push('the same sound');
      break;
    default: {
      const [first] = ranges;
      if (ranges.length === 0 || !first) parts.push('another sound');
      else if (ranges.length === 1 && first.from >= oldSeconds + shiftSeconds - 0.02)
        parts.push('the same sound with something new at its end');
      else if (ranges.length === 1)
        parts.push(`other from ${secondsText(first.from)} to ${secondsText(first.to)}`);
      else
        parts.push(
          `other in ${plural(ranges.length, 'stretch').replace('stretchs', 'stretches')}, the first from ${secondsText(first.from)} to ${secondsText(first.to)}`,
        );
    }
  }
  if (Math.abs(newSeconds - oldSeconds) > 0.005)
    parts.push(
      `${secondsText(Math.abs(newSeconds - oldSeconds))} ${newSeconds > oldSeconds ? 'longer' : 'shorter'}`,
    );
  if (Math.abs(shiftSeconds) > 1e-4 && nature !== 'other')
    parts.push(
      shiftSeconds > 0
        ? `beginning ${secondsText(shiftSeconds)} later`
        : `without its first ${secondsText(-shiftSeconds)}`,
    );
  return parts;
}

function describeFilter(bandGains: Float64Array, median: number): string {
  const third = Math.floor(bands / 3);
  const mean = (from: number, to: number): number =>
    bandGains.subarray(from, to).reduce((sum, gain) => sum + gain - median, 0) / (to - from);
  const [low, high] = [mean(0, third), mean(bands - third, bands)];
  const by = (decibels: number): string => `${Math.abs(decibels).toFixed(0)} dB`;
  if (Math.abs(low) > Math.abs(high))
    return low < 0 ? `with ${by(low)} less of the low tones` : `with ${by(low)} more of the low tones`;
  return high < 0 ? `with ${by(high)} less of the high tones` : `with ${by(high)} more of the high tones`;
}
