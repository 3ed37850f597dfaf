import { candidatesOf, linear, linearOfTwo, overlaps, type Candidate } from './candidates.ts';
import { scoreOf, tickedScore, type Proposal, type Sample } from './proposal.ts';

const mostStride = 4096;
/** Where a list can begin that is not found by an offset. */
const mostBase = 65_536;
/** More numbers are not paired with each other: that takes the square of them. */
const mostPaired = 140;

/** A relation that holds in all files, and which numbers it speaks for. */
interface Found {
  proposal: Proposal;
  candidate: Candidate;
}

/**
 * Fields of the header that stand in a relation to the file: its size, a count of things of one size, the place at which
 * something begins. @param from behind what all files begin with. Each is told from chance by the number of different values for which it holds.
 */
export function relationsOf(samples: readonly Sample[], from = 0): Proposal[] {
  const sizes = Float64Array.from(samples, ({ size }) => size);
  const all = candidatesOf(samples).filter(({ at }) => at >= from);
  const varying = all.filter(({ distinct }) => distinct >= 2);
  const found: Found[] = [];
  const add = (
    candidate: Candidate,
    proposal: Omit<Proposal, 'at' | 'bytes' | 'isLittle' | 'field'>,
    name: string,
  ): void => {
    const { at, bytes, isLittle } = candidate;
    const field = { name, type: `u${bytes * 8}` };
    found.push({ candidate, proposal: { at, bytes, isLittle, field, ...proposal } });
  };
  for (const candidate of varying) {
    const relation = linear(candidate.values, sizes);
    if (!relation || relation.rest < 0 || relation.rest > mostBase || relation.slope > mostStride) continue;
    const { slope, rest } = relation;
    const score = scoreOf(candidate.distinct);
    const files = `in ${samples.length} files, with ${candidate.distinct} different values`;
    if (slope === 1)
      add(
        candidate,
        {
          kind: 'size',
          score,
          says: `${rest === 0 ? 'the size of the file' : `the size of the file less ${rest}`}, ${files}`,
        },
        rest === 0 ? 'fileBytes' : 'dataBytes',
      );
    else if (rest >= candidate.at + candidate.bytes)
      add(
        candidate,
        {
          ...{ kind: 'count', score, stride: slope, begins: { byte: rest } },
          says: `the file is ${rest} bytes and ${slope} for each, ${files}`,
        },
        'count',
      );
  }
  listsBetween(varying, sizes, samples.length, add);
  if (!found.some(({ proposal }) => proposal.kind === 'count')) twoLists(varying, sizes, samples.length, add);
  pictures(varying, sizes, samples.length, add);
  fixedPlaces(all, found, add);
  // Two values fit many relations by chance, but for the plainest one.
  const sure = found.filter(({ proposal }) => proposal.score >= tickedScore || proposal.kind === 'size');
  return best(sure).map(({ proposal }) => proposal);
}

type Add = (
  candidate: Candidate,
  proposal: Omit<Proposal, 'at' | 'bytes' | 'isLittle' | 'field'>,
  name: string,
) => void;

/** A list that goes from one offset to another one, or to the end: so many things of so many bytes. */
function listsBetween(varying: readonly Candidate[], sizes: Float64Array, files: number, add: Add): void {
  const places = varying.filter(({ bytes, values }) => bytes === 4 && values.every((value) => value > 0));
  const ends = [...places.slice(0, mostPaired), null];
  for (const count of varying.slice(0, 4 * mostPaired)) {
    for (const end of ends) {
      if (end && (overlaps(count, end) || end.isLittle !== count.isLittle)) continue;
      const to = end?.values ?? sizes;
      if (end) {
        // From a place that is always the same.
        const relation = linear(count.values, to);
        if (relation && relation.slope >= 2 && relation.slope <= mostStride && isBase(relation.rest, count))
          told(add, count, null, end, relation.slope, relation.rest, files);
      }
      for (const begin of places) {
        if (begin === end || overlaps(begin, count) || (end && overlaps(begin, end))) continue;
        if (begin.isLittle !== count.isLittle) continue;
        const length = to.map((value, file) => value - (begin.values[file] ?? 0));
        if (length.some((value) => value < 0)) continue;
        const relation = linear(count.values, length);
        if (relation?.rest === 0 && relation.slope >= 2 && relation.slope <= mostStride)
          told(add, count, begin, end, relation.slope, null, files);
      }
    }
  }
}

function isBase(rest: number, ...before: readonly Candidate[]): boolean {
  return rest <= mostBase && before.every(({ at, bytes }) => rest >= at + bytes);
}

function told(
  add: Add,
  count: Candidate,
  begin: Candidate | null,
  end: Candidate | null,
  stride: number,
  base: number | null,
  files: number,
): void {
  const score = scoreOf(Math.min(count.distinct, (begin ?? end ?? count).distinct));
  const from = begin ? `the place that 0x${begin.at.toString(16).toUpperCase()} says` : `byte ${base ?? 0}`;
  const to = end ? `the place that 0x${end.at.toString(16).toUpperCase()} says` : 'the end';
  const says = `from ${from} to ${to} are ${stride} bytes for each, in ${files} files`;
  const begins = begin ? { saidAt: begin.at } : { byte: base ?? 0 };
  add(count, { kind: 'count', score, stride, begins, says }, 'count');
  for (const place of [begin, end])
    if (place)
      add(
        place,
        {
          kind: 'offset',
          score,
          says: `a list of ${stride} bytes each ${place === begin ? 'begins' : 'ends'} there, in ${files} files`,
        },
        'place',
      );
}

/** Two lists one after the other, to the end of the file. */
function twoLists(varying: readonly Candidate[], sizes: Float64Array, files: number, add: Add): void {
  const counts = varying.filter(({ distinct }) => distinct >= 3).slice(0, mostPaired);
  for (const [place, first] of counts.entries())
    for (const second of counts.slice(place + 1)) {
      if (overlaps(first, second) || first.isLittle !== second.isLittle) continue;
      const relation = linearOfTwo(first.values, second.values, sizes);
      if (!relation || !isBase(relation.rest, first, second)) continue;
      const { slopes, rest } = relation;
      if (slopes.some((slope) => slope < 2 || slope > mostStride)) continue;
      // Three files are fitted by any two numbers: what comes beyond them is evidence.
      const score = scoreOf(Math.min(first.distinct, second.distinct, files - 2));
      const says = `the file is ${rest} bytes, ${slopes[0]} for each of the one and ${slopes[1]} for each of the other, in ${files} files`;
      add(first, { kind: 'count', score, stride: slopes[0], begins: { byte: rest }, says }, 'count');
      add(second, { kind: 'count', score, stride: slopes[1], begins: null, says }, 'count');
    }
}

/** The file is as large as a picture of this width and height, with rows as they are or filled up to 4 bytes. */
function pictures(varying: readonly Candidate[], sizes: Float64Array, files: number, add: Add): void {
  const sides = varying.filter(({ values }) => values.every((value) => value > 0 && value <= 16_384));
  for (const width of sides.slice(0, mostPaired))
    for (const height of sides.slice(0, mostPaired)) {
      if (overlaps(width, height) || width.bytes !== height.bytes || width.isLittle !== height.isLittle)
        continue;
      for (const bytes of [1, 2, 3, 4])
        for (const isFilled of bytes % 4 === 0 ? [false] : [false, true]) {
          const rest = restOf(width.values, height.values, sizes, bytes, isFilled);
          if (rest === null || !isBase(rest, width, height)) continue;
          const distinct = new Set(width.values.map((value, file) => value * (height.values[file] ?? 0)))
            .size;
          const score = scoreOf(distinct);
          const says = `the file is ${rest} bytes and a picture of ${bytes * 8} bits a pixel${isFilled ? ', with rows filled up to 4 bytes' : ''}, in ${files} files`;
          // Without filling, either may be the one or the other: rows come after columns in nearly all formats.
          if (!isFilled && width.at > height.at) continue;
          add(width, { kind: 'pixels', score, says }, 'width');
          add(height, { kind: 'pixels', score, says }, 'height');
        }
    }
}

/** What is left of the files beside their pixels, where it is the same in all; null where it is not. */
function restOf(
  widths: Float64Array,
  heights: Float64Array,
  sizes: Float64Array,
  bytes: number,
  isFilled: boolean,
): number | null {
  let rest: number | null = null;
  for (let file = 0; file < sizes.length; file++) {
    const row = (widths[file] ?? 0) * bytes;
    const pixels = (isFilled ? Math.ceil(row / 4) * 4 : row) * (heights[file] ?? 0);
    const left = (sizes[file] ?? 0) - pixels;
    if (left < 0 || (rest !== null && left !== rest)) return null;
    rest = left;
  }
  return rest;
}

/** Places that are the same in all files, where a list is known to begin. */
function fixedPlaces(all: readonly Candidate[], found: readonly Found[], add: Add): void {
  const begins = new Set(
    found.flatMap(({ proposal: { begins, score } }) =>
      begins && 'byte' in begins && score >= tickedScore ? [begins.byte] : [],
    ),
  );
  for (const candidate of all) {
    if (candidate.distinct !== 1 || candidate.bytes !== 4) continue;
    const [place = 0] = candidate.values;
    if (begins.has(place) && place >= candidate.at + 4 && place >= 8)
      add(candidate, { kind: 'offset', score: 0.92, says: 'a list begins there, in all files' }, 'place');
  }
}

/** Of proposals for the same bytes the surest, the widest of these; each once. */
function best(found: readonly Found[]): Found[] {
  const order = [...found].sort(
    (a, b) =>
      b.proposal.score - a.proposal.score ||
      // A number that is read a byte too early or too late is 256 times as much, and fits as well.
      (a.candidate.at % 2) - (b.candidate.at % 2) ||
      rankOf(b.proposal) - rankOf(a.proposal) ||
      widthOf(b, found) - widthOf(a, found) ||
      alignmentOf(a) - alignmentOf(b) ||
      a.candidate.at - b.candidate.at,
  );
  const kept: Found[] = [];
  for (const one of order)
    if (!kept.some((other) => overlaps(one.candidate, other.candidate))) kept.push(one);
  return kept.sort((a, b) => a.candidate.at - b.candidate.at);
}

/** What is the file's size is also one count of single bytes; what ends a list is also one. */
function rankOf({ kind }: Proposal): number {
  return kind === 'size' ? 2 : kind === 'offset' ? 1 : 0;
}

/** Small numbers are the same in the other order, a byte further: where numbers lie as they usually do decides. */
function alignmentOf({ candidate: { at, bytes, isLittle } }: Found): number {
  return (at % bytes) * 2 + (isLittle ? 0 : 1);
}

/** Four bytes go before two of which the others are always 0, unless they do not lie as numbers of four bytes do. */
function widthOf({ candidate: { at, bytes } }: Found, found: readonly Found[]): number {
  const base = Math.min(...found.map(({ candidate }) => candidate.at % 4));
  return bytes === 4 ? (at % 4 === base || at % 2 === 0 ? 4 : 3) : 2;
}
