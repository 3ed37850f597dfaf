import type { Mark, Trace } from '../language/trace.ts';
import { Rows, Struct, type Column } from '../language/values.ts';

/** A whole number that stands in a file as it is. */
export interface NumberInFile {
  at: number;
  bytes: number;
  value: number;
  /** Null where either order gives this value. */
  isLittle: boolean | null;
}

const sizes = [1, 2, 3, 4, 8];

/** The whole numbers of a file, as its fields were read. */
export class NumbersInFile {
  private readonly structs = new Map<Struct, Mark>();
  private readonly rows: Rows[] = [];
  /** Those that are in no list. */
  readonly alone: (NumberInFile & { name: string })[] = [];
  /** Where lists begin, and what lies elsewhere than behind the field before it. */
  readonly places = new Set<number>();

  constructor(
    private readonly file: Uint8Array,
    trace: Trace,
  ) {
    const visit = (mark: Mark, path: string, isInList: boolean): void => {
      if (mark.value instanceof Struct) this.structs.set(mark.value, mark);
      if (mark.value instanceof Rows && mark.value.source.isFile) this.rows.push(mark.value);
      if (mark.isFile && (mark.isPlaced || typeof mark.fields[0]?.name === 'number'))
        this.places.add(mark.begin);
      if (mark.value instanceof Rows && mark.value.source.isFile) this.places.add(mark.value.begin);
      const number = isInList ? null : this.ofMark(mark);
      if (number) this.alone.push({ ...number, name: path });
      for (const field of mark.fields)
        visit(
          field,
          path === '' ? String(field.name) : `${path}.${field.name}`,
          isInList || typeof field.name === 'number',
        );
    };
    visit(trace.root, '', false);
  }

  /** Those of a structure by name, and of structures in it; null where they do not stand in the file as they are. */
  of(scope: Struct): Map<string, NumberInFile> | null {
    const mark = this.structs.get(scope);
    const found = new Map<string, NumberInFile>();
    if (mark) {
      if (!mark.isFile) return null;
      this.addFields(found, mark, '');
      return found;
    }
    const rows = this.rows.find(
      ({ begin, count, stride }) =>
        stride > 0 &&
        scope.start >= begin &&
        scope.start < begin + count * stride &&
        (scope.start - begin) % stride === 0,
    );
    if (!rows) return null;
    this.addColumns(found, rows.columns, scope.start, '');
    return found;
  }

  private addFields(found: Map<string, NumberInFile>, mark: Mark, prefix: string): void {
    for (const field of mark.fields) {
      if (typeof field.name === 'number') continue;
      const name = `${prefix}${field.name}`;
      const number = this.ofMark(field);
      if (number) found.set(name, number);
      else if (field.value instanceof Struct && field.isFile) this.addFields(found, field, `${name}.`);
    }
  }

  private addColumns(
    found: Map<string, NumberInFile>,
    columns: readonly Column[],
    start: number,
    prefix: string,
  ): void {
    for (const { name, offset, bytes, scalar, isLittle, width, of, columns: inner } of columns) {
      if (inner) this.addColumns(found, inner, start + offset, `${prefix}${name}.`);
      if (inner || of || width !== null || !/^[ui]\d+$/.test(scalar)) continue;
      const number = numberAt(this.file, start + offset, bytes, isLittle);
      if (number !== null)
        found.set(`${prefix}${name}`, { at: start + offset, bytes, value: number, isLittle });
    }
  }

  private ofMark({ value, begin, end, isFile, fields }: Mark): NumberInFile | null {
    const bytes = end - begin;
    if (!isFile || typeof value !== 'number' || fields.length > 0 || !sizes.includes(bytes)) return null;
    const [little, big] = [true, false].map((order) => numberAt(this.file, begin, bytes, order) === value);
    if (!little && !big) return null;
    return { at: begin, bytes, value, isLittle: little && big ? null : (little ?? false) };
  }
}

/** Without a sign; null beyond 2^53. */
export function numberAt(file: Uint8Array, at: number, bytes: number, isLittle: boolean): number | null {
  let value = 0;
  for (let part = 0; part < bytes; part++)
    value = value * 256 + (file[isLittle ? at + bytes - 1 - part : at + part] ?? 0);
  return Number.isSafeInteger(value) ? value : null;
}

/** @returns false where it does not fit */
export function writeNumber(
  file: Uint8Array,
  { at, bytes, isLittle }: Pick<NumberInFile, 'at' | 'bytes' | 'isLittle'>,
  value: number,
): boolean {
  if (!Number.isSafeInteger(value) || value < 0 || value >= 256 ** bytes) return false;
  let left = value;
  for (let part = 0; part < bytes; part++, left = Math.floor(left / 256))
    file[isLittle === false ? at + bytes - 1 - part : at + part] = left % 256;
  return true;
}
