import { plural } from '../../figures.ts';
import { offsetText } from '../language/sheet-error.ts';
import type { Proposal, Sample } from './proposal.ts';
import { mostSamples, proposalsFor } from './propose.ts';

/** A file in two builds. */
export interface SamplePair {
  old: Sample;
  now: Sample;
}

/** Something of a format that is other in the newer build. */
export interface FormatChange {
  kind: 'came' | 'gone' | 'stride' | 'constant';
  /** Of the newer files' first byte that it is about; of the older ones where something is gone. */
  at: number;
  /** How many bytes came or went; how many a record has now. */
  bytes: number;
  says: string;
}

/** So much of the beginning of files is laid side by side. */
const lookedAt = 1024;
/** Fields of so many bytes at most come or go at one place. */
const mostShift = 32;
/** What it costs to go on at another shift: as much as so many bytes that agree. */
const shiftCost = 6;
/** Bytes of 0 are everywhere: that two agree says little. */
const zeroWeight = 0.05;
/** Insertions at one distance from each other, so many times, are one more field of a record. */
const leastRepeats = 3;

/**
 * How a format changed from one build to another, told from files that both have: bytes that came in at one place of all, or
 * went; records that are longer; what they begin with. The bytes of all pairs are laid side by side at once, with shifts where
 * more of them agree then (an alignment by dynamic programming, Needleman and Wunsch 1970, with a cost for each change of shift).
 * @param pairs those of the same bytes say nothing, and are passed over
 */
export function formatChanges(pairs: readonly SamplePair[]): FormatChange[] {
  const compared = pairs
    .filter(({ old, now }) => old.bytes.length > 0 && now.bytes.length > 0 && !isSame(old, now))
    .slice(0, mostSamples);
  if (compared.length === 0) return [];
  const found = [...constantChanges(compared), ...shiftChanges(compared), ...strideChanges(compared)];
  return found.sort((a, b) => a.at - b.at);
}

function isSame(old: Sample, now: Sample): boolean {
  return old.size === now.size && old.bytes.every((byte, at) => byte === now.bytes[at]);
}

/** Bytes that all older files have in common, and all newer ones, otherwise. */
function constantChanges(pairs: readonly SamplePair[]): FormatChange[] {
  if (pairs.length < 2) return [];
  const length = Math.min(64, ...pairs.flatMap(({ old, now }) => [old.bytes.length, now.bytes.length]));
  const [first] = pairs;
  const changes: FormatChange[] = [];
  for (let at = 0; at < length; at++) {
    const [before, after] = [first?.old.bytes[at], first?.now.bytes[at]];
    if (before === after) continue;
    const isSame = pairs.every(({ old, now }) => old.bytes[at] === before && now.bytes[at] === after);
    // Behind the first byte that differs from file to file, other things move.
    if (!isSame) break;
    const word = (value = 0): string => `0x${value.toString(16).toUpperCase().padStart(2, '0')}`;
    changes.push({
      ...{ kind: 'constant', at, bytes: 1 },
      says: `was ${word(before)} in all ${plural(pairs.length, 'file')}, and is ${word(after)}`,
    });
  }
  // Where all is other, nothing is known of any byte.
  return changes.length <= 8 ? changes : [];
}

interface Shift {
  /** In the newer files. */
  at: number;
  bytes: number;
}

function shiftChanges(pairs: readonly SamplePair[]): FormatChange[] {
  const shifts = shiftsOf(pairs);
  const of = pairs.length === 1 ? 'in the file' : `in all ${plural(pairs.length, 'file')}`;
  const changes: FormatChange[] = [];
  let moved = 0;
  for (let from = 0; from < shifts.length;) {
    const run = repeatsFrom(shifts, from);
    const { at, bytes } = shifts[from] as Shift;
    const isMore = bytes > 0;
    const size = plural(Math.abs(bytes), 'byte');
    const [second] = shifts.slice(from + 1);
    changes.push({
      kind: isMore ? 'came' : 'gone',
      at: isMore ? at : at - moved,
      bytes: Math.abs(bytes),
      says:
        run >= leastRepeats && second
          ? `${size} ${isMore ? 'more' : 'fewer'} in each record of ${second.at - at}, from ${offsetText(at)} on`
          : `${size} ${isMore ? `came in at ${offsetText(at)}` : `at ${offsetText(at - moved)} went`} ${of}`,
    });
    for (let step = 0; step < run; step++) moved += shifts[from + step]?.bytes ?? 0;
    from += run;
  }
  return changes;
}

/** How many insertions from one on are of one size, at one distance. */
function repeatsFrom(shifts: readonly Shift[], from: number): number {
  const [first, second] = [shifts[from], shifts[from + 1]];
  if (!first || second?.bytes !== first.bytes) return 1;
  const distance = second.at - first.at;
  let count = 2;
  for (; ; count++) {
    const [before, next] = [shifts[from + count - 1], shifts[from + count]];
    if (!before || next?.bytes !== first.bytes || next.at - before.at !== distance) break;
  }
  return count >= leastRepeats ? count : 1;
}

/** Where the newer files go on at another distance from the older ones, all pairs taken together. */
function shiftsOf(pairs: readonly SamplePair[]): Shift[] {
  const length = Math.min(lookedAt, Math.max(...pairs.map(({ now }) => now.bytes.length)));
  const states = mostShift * 2 + 1;
  let scores = new Float64Array(states).fill(-Infinity);
  scores[mostShift] = 0;
  const cameFrom: Int8Array[] = [];
  for (let at = 0; at < length; at++) {
    const agreeing = new Float64Array(states);
    for (const { old, now } of pairs) {
      const byte = now.bytes[at];
      if (byte === undefined) continue;
      const weight = (byte === 0 ? zeroWeight : 1) / pairs.length;
      for (let state = 0; state < states; state++)
        if (old.bytes[at - state + mostShift] === byte) agreeing[state] = (agreeing[state] ?? 0) + weight;
    }
    let best = 0;
    for (let state = 1; state < states; state++) if ((scores[state] ?? 0) > (scores[best] ?? 0)) best = state;
    const from = new Int8Array(states);
    const next = new Float64Array(states);
    for (let state = 0; state < states; state++) {
      const isStaying = (scores[state] ?? -Infinity) >= (scores[best] ?? 0) - shiftCost;
      from[state] = isStaying ? state : best;
      next[state] =
        (isStaying ? (scores[state] ?? 0) : (scores[best] ?? 0) - shiftCost) + (agreeing[state] ?? 0);
    }
    cameFrom.push(from);
    scores = next;
  }
  let state = 0;
  for (let other = 1; other < states; other++) if ((scores[other] ?? 0) > (scores[state] ?? 0)) state = other;
  const shifts: Shift[] = [];
  for (let at = length - 1; at >= 0; at--) {
    const before = cameFrom[at]?.[state] ?? state;
    // Of equal ways the one that changes first was kept: what came in begins here.
    if (before !== state) shifts.unshift({ at, bytes: state - before });
    state = before;
  }
  return shifts;
}

/** Counts whose records are of another size now. */
function strideChanges(pairs: readonly SamplePair[]): FormatChange[] {
  if (pairs.length < 2) return [];
  const counts = (samples: Sample[]): Proposal[] =>
    proposalsFor(samples).filter(({ kind, stride, score }) => kind === 'count' && stride && score >= 0.9);
  const before = counts(pairs.map(({ old }) => old));
  const after = counts(pairs.map(({ now }) => now));
  if (before.length !== after.length) return [];
  return before.flatMap(({ stride = 0, at: was }, number): FormatChange[] => {
    const { stride: size = 0, at = 0 } = after[number] ?? {};
    if (size === stride) return [];
    return [
      {
        ...{ kind: 'stride', at, bytes: size },
        says: `the number at ${offsetText(at)}${was === at ? '' : ` (was at ${offsetText(was)})`} counts records of ${plural(size, 'byte')} now, of ${stride} before`,
      },
    ];
  });
}
