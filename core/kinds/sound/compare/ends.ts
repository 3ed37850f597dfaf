import { powerOf } from './stretches.ts';
import { timeText } from './times.ts';

/** What one of two sounds has more or less before it begins and after it ends. */
export interface Ends {
  words: string[];
  /** Whether something was cut off, and whether something that is heard was put there. */
  isCut: boolean;
  isNew: boolean;
  /** Stretches of the newer one that are new and heard, in seconds. */
  ranges: { from: number; to: number }[];
}

/** Quieter than this is silence, in power: -60 dBFS (common practice, no published source). */
const silent = 1e-6;
/** Shorter than this is what packing leaves at the ends, in seconds; but for samples that are the same. */
const least = 0.0005;

export function endsOf(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  shiftFrames: number,
  sampleRate: number,
  isExact: boolean,
): Ends {
  const [before, after] = [old[0]?.length ?? 0, now[0]?.length ?? 0];
  const result: Ends = { words: [], isCut: false, isNew: false, ranges: [] };
  // What packers with loss put before and after is a few hundredths of a second.
  const shortest = isExact ? least : 0.06;
  const look = (frames: number, from: number, place: string, cut: string): void => {
    const seconds = Math.abs(frames) / sampleRate;
    if (seconds < shortest) return;
    if (frames < 0) {
      result.words.push(`without its ${cut} ${timeText(seconds)}`);
      result.isCut = true;
      return;
    }
    const isHeard = powerOf(now, from, from + frames) > silent;
    result.words.push(`${timeText(seconds)} of ${isHeard ? 'something new' : 'silence'} ${place}`);
    if (!isHeard) return;
    result.isNew = true;
    result.ranges.push({ from: from / sampleRate, to: (from + frames) / sampleRate });
  };
  look(shiftFrames, 0, 'before it', 'first');
  const tail = after - (before + shiftFrames);
  look(tail, after - Math.max(0, tail), 'at its end', 'last');
  return result;
}
