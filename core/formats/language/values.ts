import { numbersAt, scalars, wideValue, type NumberArray, type ScalarName } from './scalars.ts';
import type { Budget } from './budget.ts';
import type { Trace } from './trace.ts';

/** What a field or an expression can be. */
export type Value = number | bigint | string | boolean | null | NumberArray | List | Rows | Table | Struct;

/** Bytes that fields lie in: the file, or what was unpacked of it. */
export interface Source {
  bytes: Uint8Array;
  view: DataView;
  /** Only the file itself has offsets that a person can look at. */
  isFile: boolean;
}

export function sourceOf(bytes: Uint8Array, isFile = false): Source {
  return { bytes, view: new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength), isFile };
}

/** What all structures of a file share, and where its reading is. */
export interface Reading {
  readonly file: Source;
  readonly path: string;
  readonly version: string;
  readonly budget: Budget;
  /** Where somebody looks at the bytes. */
  readonly trace: Trace | null;
  root: Struct | null;
  /** Where the next field begins. */
  at: number;
  source: Source;
  /** Nothing is read beyond it. */
  end: number;
  isLittle: boolean;
  /** Place in the list that is read. */
  index: number;
  /** The item before that one; null where it is the first. */
  previous: Value;
  /** The key of the keyring that is tried; null where there is none. Packings alone see it. */
  key: Uint8Array | null;
  /**
   * Writes into the file what a field must be, where the file is being made: at these bytes, instead of the value that stands there.
   * @returns whether it could
   */
  readonly mend?: ((begin: number, end: number, value: Value, wanted: Value) => boolean) | undefined;
  /** Bytes of a sister file; null where there is none. @throws NeedsSister where it has to be fetched first */
  sister: (name: string) => Uint8Array | null;
}

/**
 * An object that inherits nothing, whatever a field is called. Made by a constructor, since the engine keeps those of
 * `Object.create(null)` as dictionaries, which are slower to fill.
 */
const Fields = function () {
  // Fields come one by one.
} as unknown as new () => Record<string, Value>;
Fields.prototype = Object.create(null) as object;

/** Fields by name, with what they lie in. */
export class Struct {
  readonly values: Record<string, Value> = new Fields();
  readonly parent: Struct | null;
  readonly reading: Reading;
  /** Its first byte. */
  readonly start: number;
  /** Its place in a list. */
  readonly index: number;
  /** What it is an item of a list of, where that is no structure. */
  item: Value = null;

  constructor(reading: Reading, parent: Struct | null, start: number, index = 0) {
    this.reading = reading;
    this.parent = parent;
    this.start = start;
    this.index = index;
  }

  /** The nearest field of that name: its own, or of what it lies in. */
  find(name: string): Value | undefined {
    const own = this.values[name];
    return own !== undefined ? own : this.parent?.find(name);
  }
}

/** Things in a row that are no plain numbers. */
export class List {
  readonly items: readonly Value[];

  constructor(items: readonly Value[]) {
    this.items = items;
  }
}

/** A number, text or bytes at a fixed place of a row. */
export interface Column {
  name: string;
  offset: number;
  bytes: number;
  scalar: ScalarName;
  isLittle: boolean;
  /** Numbers in a row that it has; null where it is one and no list. */
  width: number | null;
  /** Where it is more than a number: what it is. */
  of?: ((source: Source, at: number) => Value) | undefined;
  /** Where it is a structure: its own columns, from its own first byte. */
  columns?: readonly Column[] | undefined;
}

/** Structures of the same size one after the other, whose fields are read when they are asked for. */
export class Rows {
  readonly count: number;
  readonly stride: number;
  readonly begin: number;
  readonly columns: readonly Column[];
  readonly source: Source;
  private readonly parent: Struct;

  constructor(
    parent: Struct,
    source: Source,
    begin: number,
    count: number,
    stride: number,
    columns: readonly Column[],
  ) {
    this.parent = parent;
    this.source = source;
    this.begin = begin;
    this.count = count;
    this.stride = stride;
    this.columns = columns;
  }

  row(index: number): Struct {
    const start = this.begin + index * this.stride;
    const struct = new Struct(this.parent.reading, this.parent, start, index);
    for (const { name, offset, scalar, isLittle, width, of, columns } of this.columns) {
      const at = start + offset;
      struct.values[name] = columns
        ? new Rows(struct, this.source, at, 1, 0, columns).row(0)
        : of
          ? of(this.source, at)
          : width === null
            ? wideValue(scalar, this.source.view, at, isLittle)
            : numbersAt(scalar, this.source.bytes, at, width, isLittle);
    }
    return struct;
  }

  /** All of a column: numbers of a row one after the other, row by row; null where there is no such column. */
  column(name: string): Value | null {
    const column = this.columns.find((candidate) => candidate.name === name);
    if (!column) return null;
    const { offset, scalar, isLittle, width, of, columns } = column;
    if (columns)
      return new Rows(this.parent, this.source, this.begin + offset, this.count, this.stride, columns);
    const { budget } = this.parent.reading;
    const at = this.begin + offset;
    if (of) {
      budget.step(this.count);
      budget.allocate(this.count * 16);
      return new List(
        Array.from({ length: this.count }, (_, row) => of(this.source, at + row * this.stride)),
      );
    }
    budget.allocate(this.count * (width ?? 1) * Math.max(4, scalars[scalar].bytes));
    return numbersAt(scalar, this.source.bytes, at, this.count, isLittle, width ?? 1, this.stride);
  }
}

/** Lines of one kind, column by column. */
export class Table {
  readonly count: number;
  private readonly parent: Struct;
  private readonly columns: ReadonlyMap<string, TableColumn>;

  constructor(parent: Struct, count: number, columns: ReadonlyMap<string, TableColumn>) {
    this.parent = parent;
    this.count = count;
    this.columns = columns;
  }

  row(index: number): Struct {
    const struct = new Struct(this.parent.reading, this.parent, this.parent.start, index);
    for (const [name, { values, ends }] of this.columns)
      struct.values[name] = ends
        ? sliceOf(values, ends[index - 1] ?? 0, ends[index] ?? 0)
        : (values[index] ?? null);
    return struct;
  }

  column(name: string): Value | null {
    const column = this.columns.get(name);
    if (!column) return null;
    return Array.isArray(column.values) ? new List(column.values) : column.values;
  }
}

/** Numbers or texts, one to each row; or several, with where those of a row end. */
export interface TableColumn {
  values: Float64Array | string[];
  ends?: Float64Array | undefined;
}

function sliceOf(values: TableColumn['values'], begin: number, end: number): Value {
  return Array.isArray(values) ? new List(values.slice(begin, end)) : values.subarray(begin, end);
}

/** A number, a text or a truth as text; null of anything else. */
export function plainText(value: Value): string | null {
  const isPlain =
    typeof value === 'string' ||
    typeof value === 'number' ||
    typeof value === 'bigint' ||
    typeof value === 'boolean';
  return isPlain ? String(value) : null;
}

export function isNumbers(value: Value | undefined): value is NumberArray {
  return ArrayBuffer.isView(value) && !(value instanceof DataView);
}

/** How many things a list has; null of what is no list. */
export function countOf(value: Value): number | null {
  if (isNumbers(value)) return value.length;
  if (value instanceof List) return value.items.length;
  return value instanceof Rows || value instanceof Table ? value.count : null;
}

export function itemOf(value: Value, index: number): Value | undefined {
  if (isNumbers(value)) {
    const number = value[index];
    return typeof number === 'bigint' && Number.isSafeInteger(Number(number)) ? Number(number) : number;
  }
  if (value instanceof List) return value.items[index];
  if ((value instanceof Rows || value instanceof Table) && index >= 0 && index < value.count)
    return value.row(index);
  return undefined;
}

/** A field of all structures of a list: numbers as one array, where all are numbers. */
export function columnOf(list: List, name: string, budget: Budget): Value | null {
  budget.step(list.items.length);
  const found: Value[] = [];
  for (const item of list.items) {
    const value = item instanceof Struct ? item.values[name] : memberOfList(item, name, budget);
    if (value === undefined || value === null) return null;
    found.push(value);
  }
  return joined(found, budget);
}

function memberOfList(item: Value, name: string, budget: Budget): Value | null {
  if (item instanceof Rows || item instanceof Table) return item.column(name);
  return item instanceof List ? columnOf(item, name, budget) : null;
}

/** Numbers, and lists of numbers, as one array; other things as a list. */
export function joined(values: readonly Value[], budget: Budget): Value {
  budget.allocate(values.length * 8);
  // A list without anything in it is one of numbers too.
  if (values.every((value) => typeof value === 'number')) return Float64Array.from(values);
  if (values.every(isNumbers)) {
    const length = values.reduce((sum, part) => sum + part.length, 0);
    budget.allocate(length * 8);
    const all = new Float64Array(length);
    let at = 0;
    for (const part of values) {
      for (const number of part) all[at++] = Number(number);
    }
    return all;
  }
  return new List(values);
}
