import type { Mark, Trace } from './language/trace.ts';
import { valueText } from './language/value-text.ts';
import {
  countOf,
  isNumbers,
  itemOf,
  List,
  Rows,
  Struct,
  type Column,
  type Value,
} from './language/values.ts';

/** Leads from the root to a field: names, and places in lists. */
export type FieldPath = readonly (string | number)[];

/** A field as somebody looks at it. */
export interface ShownField {
  path: FieldPath;
  /** Its value in a few words. */
  text: string;
  /** Where it lies in the file; null where it lies in what was unpacked, or was computed. */
  place: { begin: number; end: number } | null;
  /** How many fields or items are within it. */
  count: number;
}

/** What is looked at: a field that was noted, or one within a value that is read when it is asked for. */
interface Spot {
  name: string | number;
  value: Value | undefined;
  place: { begin: number; end: number } | null;
  mark: Mark | null;
  /** Of a row of a table: where its fields lie. */
  columns?: readonly Column[] | undefined;
}

/**
 * Fields within a field.
 * @param root what the file begins with; of a text its fields are looked up in it, of bytes in the trace
 * @param from the first that is wanted, from 0
 */
export function fieldsWithin(
  { root }: Pick<Trace, 'root'>,
  path: FieldPath,
  from = 0,
  limit = 100,
): { fields: ShownField[]; count: number } {
  let spot: Spot | null = spotOf(root);
  for (const name of path) spot = spot && spotAt(spot, name);
  if (!spot) return { fields: [], count: 0 };
  const count = countWithin(spot);
  const fields: ShownField[] = [];
  for (let at = from; at < Math.min(count, from + limit); at++) {
    const inner = spotNumber(spot, at);
    if (!inner) continue;
    const text = inner.value === undefined ? 'not read' : valueText(inner.value);
    fields.push({ path: [...path, inner.name], text, place: inner.place, count: countWithin(inner) });
  }
  return { fields, count };
}

/** A path as people write it: `header.count`, `vertices[12].position`. */
export function fieldPathText(path: FieldPath): string {
  return path
    .map((name, at) => (typeof name === 'number' ? `[${name}]` : `${at > 0 ? '.' : ''}${name}`))
    .join('');
}

function spotOf(mark: Mark): Spot {
  const { name, value, begin, end, isFile } = mark;
  return { name, value, mark, place: isFile && end > begin ? { begin, end } : null };
}

function countWithin({ mark, value }: Spot): number {
  if (mark && mark.fields.length > 0) return mark.fields.length;
  if (value === undefined || value === null) return 0;
  if (value instanceof Struct) return Object.keys(value.values).length;
  return countOf(value) ?? 0;
}

function spotNumber(spot: Spot, at: number): Spot | null {
  const { mark, value } = spot;
  if (mark && mark.fields.length > 0) {
    const inner = mark.fields[at];
    return inner ? spotOf(inner) : null;
  }
  if (value instanceof Struct) {
    const name = Object.keys(value.values)[at];
    return name === undefined ? null : within(spot, value, name);
  }
  return item(spot, at);
}

function spotAt(spot: Spot, name: string | number): Spot | null {
  const { mark, value } = spot;
  if (mark && mark.fields.length > 0) {
    const inner =
      typeof name === 'number' && mark.fields[name]?.name === name
        ? mark.fields[name]
        : mark.fields.find((field) => field.name === name);
    return inner ? spotOf(inner) : null;
  }
  if (value instanceof Struct) return within(spot, value, String(name));
  return item(spot, Number(name));
}

function within({ place, columns }: Spot, struct: Struct, name: string): Spot {
  const column = columns?.find((one) => one.name === name);
  const begin = (place?.begin ?? 0) + (column?.offset ?? 0);
  return {
    ...{ name, value: struct.values[name], mark: null, columns: column?.columns },
    place: column && place ? { begin, end: begin + column.bytes } : null,
  };
}

function item({ value, place }: Spot, at: number): Spot | null {
  const count = value === undefined || value === null ? null : countOf(value);
  if (value === undefined || count === null || at >= count) return null;
  const isEven = value instanceof Rows || isNumbers(value) || value instanceof List;
  const each = place && isEven && count > 0 ? (place.end - place.begin) / count : 0;
  // Things of one size lie one after the other; others were noted one by one.
  const begin = (place?.begin ?? 0) + at * each;
  return {
    ...{ name: at, value: itemOf(value, at), mark: null },
    columns: value instanceof Rows ? value.columns : undefined,
    place: Number.isInteger(each) && each > 0 ? { begin, end: begin + each } : null,
  };
}

/** A run of bytes (or lines, of a text) that one field explains. */
export interface Run {
  begin: number;
  end: number;
  path: FieldPath;
  /** Tells it from its neighbours: which field, or which place in a list. */
  tint: number;
}

/** Fields that lie in a part of the file, each as one run, in order. */
export function runsIn({ root }: Pick<Trace, 'root'>, begin: number, end: number, most = 5000): Run[] {
  const runs: Run[] = [];
  const add = (run: Run): void => {
    if (runs.length < most && run.end > begin && run.begin < end) runs.push(run);
  };
  const visit = (mark: Mark, path: FieldPath, tint: number): void => {
    if (hasPlaces(mark)) {
      mark.fields.forEach((field, at) => visit(field, [...path, field.name], tint + at));
      return;
    }
    if (!mark.isFile || mark.end <= begin || mark.begin >= end) return;
    const { value } = mark;
    if (value instanceof Rows) {
      rowRuns(value, mark, path, begin, end, add);
      return;
    }
    add({ begin: mark.begin, end: mark.end, path, tint });
  };
  visit(root, [], 0);
  return runs.sort((a, b) => a.begin - b.begin);
}

function hasPlaces(mark: Mark): boolean {
  return mark.fields.some(({ isFile }) => isFile);
}

function rowRuns(
  { stride, count, columns }: Rows,
  { begin: start }: Mark,
  path: FieldPath,
  begin: number,
  end: number,
  add: (run: Run) => void,
): void {
  const first = Math.max(0, Math.floor((begin - start) / stride));
  const last = Math.min(count, Math.ceil((end - start) / stride));
  for (let row = first; row < last; row++)
    columns.forEach(({ name, offset, bytes }, tint) => {
      const at = start + row * stride + offset;
      add({ begin: at, end: at + bytes, path: [...path, row, name], tint: tint + (row % 2) });
    });
}

/** Parts of the file that no field explains, in order. */
export function gapsOf({ root }: Pick<Trace, 'root'>, size: number): { begin: number; end: number }[] {
  const ranges: { begin: number; end: number }[] = [];
  const visit = (mark: Mark): void => {
    if (hasPlaces(mark)) mark.fields.forEach(visit);
    else if (mark.isFile && mark.end > mark.begin) ranges.push(mark);
  };
  visit(root);
  ranges.sort((a, b) => a.begin - b.begin);
  const gaps: { begin: number; end: number }[] = [];
  let at = 0;
  for (const { begin, end } of ranges) {
    if (begin > at) gaps.push({ begin: at, end: begin });
    if (end > at) at = end;
  }
  if (size > at) gaps.push({ begin: at, end: size });
  return gaps;
}
