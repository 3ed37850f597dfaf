import { adler32, crc32, fnv1a32, sum } from '../language/check-sums.ts';
import type { NumberInFile } from './numbers-in-file.ts';

/** What a field of an entry says of it. */
export type Said = 'place' | 'end' | 'packed size' | 'size' | keyof typeof checkSums;

/** A field that says it: `unit` times what stands there, and `base`. */
export interface Relation {
  name: string;
  says: Said;
  /** Of a check sum: of the packed bytes, or of those that come out. */
  isOfPacked: boolean;
  unit: number;
  base: number;
  /** The byte order of these fields; null where none tells. */
  isLittle: boolean | null;
}

export interface MeasuredEntry {
  numbers: ReadonlyMap<string, NumberInFile>;
  place: number;
  packed: Uint8Array;
  /** Unpacked; null where it was not looked at. */
  bytes: Uint8Array | null;
}

const checkSums = { crc32, adler32, fnv1a32, sum };
const mostSampleBytes = 32 * 1024 ** 2;
const mostUnit = 65_536;

/** The values of what is said of an entry. */
export function valueOf(
  says: Said,
  isOfPacked: boolean,
  { place, packed, bytes }: Pick<MeasuredEntry, 'place' | 'packed' | 'bytes'>,
): number | null {
  const content = isOfPacked ? packed : bytes;
  switch (says) {
    case 'place':
      return place;
    case 'end':
      return place + packed.length;
    case 'packed size':
      return packed.length;
    case 'size':
      return bytes?.length ?? null;
    default:
      return content && checkSums[says](content);
  }
}

/**
 * What fields of entries say, as far as it is true of all of them. Only whole numbers of which this is so for entries that differ
 * are believed, or that say exactly this.
 */
export function relationsOf(entries: readonly MeasuredEntry[]): Relation[] {
  const [first] = entries;
  if (!first) return [];
  const names = [...first.numbers.keys()].filter((name) => entries.every(({ numbers }) => numbers.has(name)));
  const samples = sampled(entries);
  const relations: Relation[] = [];
  for (const name of names) {
    const isLittle =
      entries.map(({ numbers }) => numbers.get(name)?.isLittle).find((order) => typeof order === 'boolean') ??
      null;
    for (const says of ['place', 'end', 'packed size', 'size'] as const) {
      const scale = scaleOf(says === 'size' ? samples : entries, name, says);
      if (scale) relations.push({ name, says, isOfPacked: true, ...scale, isLittle });
    }
    if ((first.numbers.get(name)?.bytes ?? 0) < 4) continue;
    for (const says of Object.keys(checkSums) as (keyof typeof checkSums)[])
      for (const isOfPacked of [true, false])
        if (
          samples.some(({ packed }) => packed.length > 0) &&
          samples.every(
            (entry) => entry.numbers.get(name)?.value === (valueOf(says, isOfPacked, entry) ?? NaN),
          )
        )
          relations.push({ name, says, isOfPacked, unit: 1, base: 0, isLittle });
  }
  return relations;
}

/**
 * The same with one meaning for each field: where nothing is packed as it is now, a size may be that of the packed file or of what comes
 * out of it.
 * @returns one list, or two that are to be tried one after the other
 */
export function meaningsOf(relations: readonly Relation[]): Relation[][] {
  const without = (says: Said): Relation[] =>
    relations.filter(
      (one) =>
        one.says !== says || !relations.some((other) => other.name === one.name && isSize(other, says)),
    );
  const [asPacked, asUnpacked] = [without('size'), without('packed size')];
  return asPacked.length === relations.length ? [asPacked] : [asPacked, asUnpacked];
}

function isSize({ says }: Relation, besides: Said): boolean {
  return says !== besides && (says === 'size' || says === 'packed size');
}

/** Those that were unpacked, up to what is looked through in no time. */
function sampled(entries: readonly MeasuredEntry[]): MeasuredEntry[] {
  let left = mostSampleBytes;
  return entries.filter(({ bytes, packed }) => {
    if (!bytes || left < 0) return false;
    left -= bytes.length + packed.length;
    return true;
  });
}

/** How a field's numbers become what they say; null where they do not. */
function scaleOf(
  entries: readonly MeasuredEntry[],
  name: string,
  says: Said,
): { unit: number; base: number } | null {
  const pairs = entries.flatMap((entry) => {
    const [stored, value] = [entry.numbers.get(name)?.value, valueOf(says, true, entry)];
    return stored === undefined || value === null ? [] : [{ stored, value }];
  });
  const [first] = pairs;
  if (!first) return null;
  if (pairs.every(({ stored, value }) => stored === value)) return { unit: 1, base: 0 };
  const other = pairs.find(({ stored }) => stored !== first.stored);
  if (!other) return null;
  const unit = (other.value - first.value) / (other.stored - first.stored);
  const base = first.value - unit * first.stored;
  const isUnit = Number.isInteger(unit) && unit >= 1 && unit <= mostUnit && Number.isInteger(Math.log2(unit));
  return isUnit && pairs.every(({ stored, value }) => stored * unit + base === value) ? { unit, base } : null;
}
