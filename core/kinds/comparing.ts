import type { Comparison, Figure } from '../../contract/comparisons.ts';
import type { Raster, ReadRequest } from './reading.ts';

/** What comparing two contents of one kind gives. */
export interface Outcome {
  comparison: Comparison;
  /** What differs, where a picture can show it. */
  picture: Raster | null;
}

/** What comparers of one kind need of another: pictures inside of something. @throws ReadError */
export interface OtherKinds {
  comparePictures: (old: Uint8Array, now: Uint8Array) => Promise<Outcome>;
}

/** Compares an older and a newer content. @throws ReadError of the one that cannot be read */
export type Comparer = (old: ReadRequest, now: ReadRequest, others: OtherKinds) => Promise<Outcome>;

/** Figures that differ, in words; those that are equal are left out. */
export function figure(name: string, old: string | number, now: string | number): Figure[] {
  const text = (value: string | number): string =>
    typeof value === 'number' ? value.toLocaleString('en') : value;
  return old === now ? [] : [{ name, old: text(old), new: text(now) }];
}

/** A name of the game's own in a sentence: marked, so that its letters stay as they are. */
export function named(name: string): string {
  return `“${name}”`;
}

/** The first letter large, a full stop at the end, but for a value that closes with a mark of its own. */
export function sentenceOf(parts: readonly string[]): string {
  const text = parts.filter((part) => part !== '').join(', ');
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}${/[.?!]$/.test(text) ? '' : '.'}`;
}

export function percentText(share: number): string {
  if (share <= 0) return '0 %';
  if (share < 0.0001) return 'less than 0.01 %';
  return `${(share * 100).toFixed(share < 0.1 ? 2 : 1)} %`;
}

/** What lengths are told in: where a model does not say its unit, nobody knows how many metres it is. */
export type LengthUnit = 'metres' | 'units';

export function lengthText(length: number, unit: LengthUnit = 'metres'): string {
  if (unit === 'units') {
    const rounded = Number(length.toPrecision(3));
    return `${rounded.toLocaleString('en', { maximumSignificantDigits: 3 })} ${rounded === 1 ? 'unit' : 'units'}`;
  }
  const metres = length;
  if (metres < 0.001) return `${(metres * 1e6).toFixed(0)} µm`;
  if (metres < 1) return `${(metres * 1000).toFixed(metres < 0.01 ? 1 : 0)} mm`;
  return `${metres.toFixed(2)} m`;
}

const times: readonly [number, string][] = [
  [1, 'once'],
  [2, 'twice'],
  [0.5, 'half'],
  [3, 'three times'],
  [4, 'four times'],
  [0.25, 'a quarter'],
];

/** `twice`, `half`, or how many times, before “as large”. */
export function timesText(factor: number): string {
  const near = times.find(([value]) => Math.abs(factor / value - 1) < 0.003);
  return near?.[1] ?? `${Number(factor.toPrecision(3))} times`;
}
