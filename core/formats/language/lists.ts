import { isTrue, wholeNumber, type Compute } from './expression.ts';
import { need, type ReadOne } from './plain-types.ts';
import { numbersAt, scalars } from './scalars.ts';
import { SheetError } from './sheet-error.ts';
import type { ReadyType } from './compile.ts';
import { joined, Rows, Struct, type Reading, type Value } from './values.ts';

interface Repeated {
  /** Null where it goes on to the end, or until something is true. */
  count: Compute | null;
  /** The count where it is a number in the sheet. */
  literal: number | null;
  until: Compute | null;
  /** Whether the one that `until` is true of is part of the list. */
  keepLast: boolean;
}

/** A list of things of one type. */
export function listReader(one: ReadyType, repeated: Repeated): ReadyType {
  const { literal } = repeated;
  const { fixed } = one;
  const isNumbers = fixed !== null && fixed.of === undefined;
  const width = isNumbers && literal !== null && one.width === undefined ? literal : undefined;
  return {
    ...{ columns: null },
    fixed: width === undefined ? null : fixed,
    bytes: width === undefined || !fixed ? null : fixed.bytes * width,
    width,
    read: repeated.until ? untilTrue(one, repeated.until, repeated.keepLast) : counted(one, repeated.count),
  };
}

function counted(one: ReadyType, count: Compute | null): ReadOne {
  return (reading, scope) => {
    const { fixed, columns, bytes, width } = one;
    if (bytes === null || bytes === 0 || width !== undefined) return oneByOne(reading, scope, one, count);
    const most = Math.floor((reading.end - reading.at) / bytes);
    const number = count ? wholeNumber(count(scope), 'a count of') : most;
    if (number > most) {
      if (number * bytes > Number.MAX_SAFE_INTEGER)
        throw new SheetError(`a count of ${number.toLocaleString('en')} cannot be`);
      tooMany(reading, number, bytes);
    }
    const begin = reading.at;
    reading.at += number * bytes;
    if (columns) return new Rows(scope, reading.source, begin, number, bytes, columns(reading.isLittle));
    if (!fixed) throw new SheetError('a list of things without a size');
    const isLittle = fixed.isLittle ?? reading.isLittle;
    const { of } = fixed;
    if (!of) {
      if (fixed.scalar === 'u8') return reading.source.bytes.subarray(begin, reading.at);
      reading.budget.allocate(number * Math.max(4, scalars[fixed.scalar].bytes));
      return numbersAt(fixed.scalar, reading.source.bytes, begin, number, isLittle);
    }
    reading.budget.step(number);
    reading.budget.allocate(number * 32);
    const items = Array.from({ length: number }, (_, at) => of(reading.source, begin + at * bytes, isLittle));
    return joined(items, reading.budget);
  };
}

function tooMany(reading: Reading, count: number, bytes: number): void {
  try {
    need(reading, count * bytes);
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    throw new SheetError(`count ${count.toLocaleString('en')}: ${error.message}`, error.at);
  }
}

function oneByOne(reading: Reading, scope: Struct, one: ReadyType, count: Compute | null): Value {
  const number = count ? wholeNumber(count(scope), 'a count of') : Infinity;
  // Each takes a byte at the least, but for what takes none by its very form.
  if (number !== Infinity && one.bytes !== null && one.bytes > 0) tooMany(reading, number, one.bytes);
  const items: Value[] = [];
  for (let at = 0; at < number && !(number === Infinity && reading.at >= reading.end); at++) {
    const before = reading.at;
    items.push(item(reading, scope, one, at, items[at - 1] ?? null));
    if (number === Infinity && reading.at === before)
      throw new SheetError('what is repeated to the end takes no bytes');
  }
  return joined(items, reading.budget);
}

function untilTrue(one: ReadyType, until: Compute, keepLast: boolean): ReadOne {
  return (reading, scope) => {
    const items: Value[] = [];
    for (let at = 0; ; at++) {
      const value = item(reading, scope, one, at, items[at - 1] ?? null);
      const seen = value instanceof Struct ? value : new Struct(reading, scope, reading.at, at);
      if (!(value instanceof Struct)) seen.item = value;
      if (isTrue(until(seen))) {
        if (keepLast) items.push(value);
        return joined(items, reading.budget);
      }
      items.push(value);
    }
  };
}

function item(reading: Reading, scope: Struct, one: ReadyType, at: number, previous: Value): Value {
  const { budget, trace } = reading;
  const [outer, before] = [reading.index, reading.previous];
  reading.index = at;
  reading.previous = previous;
  budget.step();
  budget.allocate(16);
  const begin = reading.at;
  try {
    if (trace !== null) trace.enter(at, begin, reading.source.isFile);
    const value = one.read(reading, scope);
    if (trace !== null) trace.leave(reading.at, value);
    reading.index = outer;
    reading.previous = before;
    return value;
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    const joint = error.where === '' ? '' : '.';
    throw new SheetError(
      error.message,
      error.at ?? (reading.source.isFile ? begin : null),
      `[${at}]${joint}${error.where}`,
    );
  }
}
