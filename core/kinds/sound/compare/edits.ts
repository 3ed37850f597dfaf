import { powerOf } from './stretches.ts';

/** A stretch that was put in or cut out, in frames: of the newer sound where it was put in, of the older one where it was cut. */
export interface Edit {
  kind: 'inserted' | 'cut';
  from: number;
  to: number;
}

/** Samples are the same within two steps of 16 bits, once the gain is taken out. */
const sameStep = 6.2e-5;

/**
 * The stretch by which one sound is longer than the other, where all before it and all after it is the same; null where that
 * is not so. What repeats itself could have been put in at several places: then the last one counts.
 */
export function editOf(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  gain: number,
): Edit | null {
  const [before, after] = [old[0]?.length ?? 0, now[0]?.length ?? 0];
  if (before === after || old.length !== now.length) return null;
  const shorter = Math.min(before, after);
  const isSame = (oldFrame: number, newFrame: number): boolean =>
    now.every(
      (samples, channel) =>
        Math.abs((samples[newFrame] ?? 0) - gain * (old[channel]?.[oldFrame] ?? 0)) <= sameStep,
    );
  let head = 0;
  while (head < shorter && isSame(head, head)) head++;
  let tail = 0;
  while (tail < shorter && isSame(before - 1 - tail, after - 1 - tail)) tail++;
  // Most of the shorter one is there: a few frames around the place may be smoothed over.
  if (head + tail < shorter - Math.max(8, shorter * 0.002) || head === 0 || tail === 0) return null;
  // What lies before the first or behind the last that is heard is told as that.
  const isHeard = (from: number, to: number): boolean => powerOf(old, from, to) > 1e-8;
  if (!isHeard(0, head) || !isHeard(before - tail, before)) return null;
  const longer = Math.abs(after - before);
  const from = Math.min(head, shorter);
  return after > before
    ? { kind: 'inserted', from, to: from + longer }
    : { kind: 'cut', from, to: from + longer };
}
