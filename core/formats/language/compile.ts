import type { FieldOptions, FormatSheet, SheetField } from '../../../contract/format-sheets.ts';
import { compilePackings, type Unpack } from '../packings/packings.ts';
import { compileChecks } from './checks.ts';
import { compileExpression, reservedWords, shown } from './expression.ts';
import { bytesOf } from './conversions.ts';
import { listReader } from './lists.ts';
import { elsewhere, withPlace } from './places.ts';
import { plainType, type Fixed, type ReadOne } from './plain-types.ts';
import { SheetError } from './sheet-error.ts';
import { typeWords } from './type-words.ts';
import { Struct, plainText, sourceOf, type Column } from './values.ts';
import { isInVersion } from './versions.ts';

/** A type, ready to read. */
export interface ReadyType {
  read: ReadOne;
  /** Of a number, text or bytes of one size. */
  fixed: Fixed | null;
  /** Of a structure of one size: its columns, where its surroundings have this byte order. */
  columns: ((isLittle: boolean) => readonly Column[]) | null;
  /** Bytes of what has one size. */
  bytes: number | null;
  /** Numbers in a row that it is; nothing of what is no such list. */
  width?: number | undefined;
}

interface Ready {
  sheet: FormatSheet;
  version: string;
  encoding: string;
  /** How many fields more there may be: a sheet is somebody else’s. */
  budget: { fields: number };
  /** By encoding and name. */
  types: Map<string, ReadyType>;
  /** Types that are being made ready: one may hold itself. */
  making: Set<string>;
}

/** Makes the fields of a binary sheet ready to be read in one of its versions. @throws SheetError that says which field is wrong */
export function compileBinary(sheet: FormatSheet, version: string, budget: { fields: number }): ReadOne {
  if (!sheet.root) throw new SheetError('the sheet has no “root”: what a file begins with');
  const ready: Ready = {
    ...{ sheet, version, encoding: sheet.encoding, budget },
    ...{ types: new Map(), making: new Set() },
  };
  return structure(sheet.root, ready, 'root').read;
}

function inField<Result>(name: string, make: () => Result): Result {
  try {
    return make();
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    throw new SheetError(error.message, error.at, error.where === '' ? name : `${name}.${error.where}`);
  }
}

function structure(fields: Record<string, SheetField>, ready: Ready, what: string): ReadyType {
  const parts: { name: string; type: ReadyType }[] = [];
  for (const [name, field] of Object.entries(fields))
    inField(name, () => {
      if (Object.hasOwn(reservedWords, name))
        throw new SheetError(`no field can be called ${name}: expressions use this word`);
      if (typeof field === 'object' && !isInVersion(field, ready.sheet, ready.version)) return;
      if (--ready.budget.fields < 0)
        throw new SheetError('the sheet has too many fields, with all its versions');
      parts.push({ name, type: fieldType(field, ready) });
    });
  if (parts.length === 0 && what === 'root') throw new SheetError('there are no fields in it');
  const { columns, bytes } = fixedColumns(parts);
  const readers = parts.map(({ name, type }) => ({ name, read: type.read }));
  return {
    fixed: null,
    columns,
    bytes,
    read: (reading, scope) => {
      const { budget, trace } = reading;
      budget.enter();
      budget.allocate(64 + 24 * readers.length);
      const isRoot = reading.root === null;
      const struct = isRoot ? scope : new Struct(reading, scope, reading.at, reading.index);
      if (isRoot) reading.root = struct;
      trace?.holds(struct);
      let current = '';
      let begin = reading.at;
      try {
        for (const { name, read } of readers) {
          current = name;
          begin = reading.at;
          budget.step();
          if (trace === null) {
            struct.values[name] = read(reading, struct);
            continue;
          }
          trace.enter(name, begin, reading.source.isFile);
          const value = read(reading, struct);
          struct.values[name] = value;
          trace.leave(reading.at, value);
        }
      } catch (error) {
        throw placed(error, current, reading.source.isFile ? begin : null);
      }
      budget.leave();
      return struct;
    },
  };
}

/** The error with where it came from. */
function placed(error: unknown, name: string, at: number | null): unknown {
  if (!(error instanceof SheetError)) return error;
  const { message, where } = error;
  const joint = where === '' || where.startsWith('[') ? '' : '.';
  return new SheetError(message, error.at ?? at, `${name}${joint}${where}`);
}

function fixedColumns(
  parts: readonly { name: string; type: ReadyType }[],
): Pick<ReadyType, 'columns' | 'bytes'> {
  let bytes = 0;
  const places: { name: string; offset: number; size: number; type: ReadyType }[] = [];
  for (const { name, type } of parts) {
    if (type.bytes === null) return { columns: null, bytes: null };
    places.push({ name, offset: bytes, size: type.bytes, type });
    bytes += type.bytes;
  }
  const made = new Map<boolean, readonly Column[]>();
  const columns = (isLittle: boolean): readonly Column[] => {
    const known = made.get(isLittle);
    if (known) return known;
    const all = places.map(({ name, offset, size, type }): Column => {
      const { fixed } = type;
      const little = fixed?.isLittle ?? isLittle;
      const of = fixed?.of;
      return {
        ...{ name, offset, bytes: size, isLittle: little },
        ...{ scalar: fixed?.scalar ?? 'u8', width: type.width ?? null },
        ...(of && { of: (source, at) => of(source, at, little) }),
        ...(type.columns && { columns: type.columns(isLittle) }),
      };
    });
    made.set(isLittle, all);
    return all;
  };
  return { columns, bytes };
}

function namedType(text: string, ready: Ready): ReadyType {
  const words = typeWords(text);
  const one = inField(text, () => oneType(words, ready));
  if (words.count === null) return one;
  const isToEnd = words.count === 'end' || words.count === '';
  return listReader(one, {
    count: isToEnd ? null : compileExpression(words.count),
    literal: /^\d+$/.test(words.count) ? Number(words.count) : null,
    ...{ until: null, keepLast: true },
  });
}

function oneType(words: ReturnType<typeof typeWords>, ready: Ready): ReadyType {
  const plain = plainType(words, ready.encoding, compileExpression);
  if (plain) return { ...plain, columns: null, bytes: plain.fixed?.bytes ?? null };
  const described = ready.sheet.types?.[words.name];
  if (described === undefined) throw new SheetError(`there is no type ${words.name}`);
  if (words.argument !== null) throw new SheetError(`${words.name} takes nothing in brackets`);
  // Texts in it are of the encoding of where it stands.
  const key = `${ready.encoding} ${words.name}`;
  const known = ready.types.get(key);
  if (known) return known;
  if (ready.making.has(key))
    // It holds itself: looked up when it is read.
    return {
      ...{ fixed: null, columns: null, bytes: null },
      read: (reading, scope) => {
        const type = ready.types.get(key);
        if (!type) throw new SheetError(`the type ${words.name} is not ready`);
        return type.read(reading, scope);
      },
    };
  ready.making.add(key);
  const type =
    typeof described === 'string' ? namedType(described, ready) : structure(described, ready, words.name);
  ready.making.delete(key);
  ready.types.set(key, type);
  return type;
}

function fieldType(field: SheetField, ready: Ready): ReadyType {
  if (typeof field === 'string') return namedType(field, ready);
  const inner = field.encoding === undefined ? ready : { ...ready, encoding: field.encoding };
  const base = baseType(field, inner);
  const list = withList(field, base);
  const { is, equals, values, bits, unpack, as } = field;
  const checked = compileChecks({ is, equals, values, bits }, list);
  const unpacked =
    unpack === undefined
      ? checked
      : unpackedType(checked, compilePackings(unpack), as === undefined ? null : fieldType(as, inner));
  return withPlace(field, unpacked);
}

function baseType(field: FieldOptions, ready: Ready): ReadyType {
  const given = [field.type, field.fields, field.switch, field.value].filter((part) => part !== undefined);
  if (given.length > 1) throw new SheetError('type, fields, switch and value exclude each other');
  if (field.type !== undefined) return namedType(field.type, ready);
  if (field.fields !== undefined) return structure(field.fields, ready, 'fields');
  if (field.value !== undefined) {
    const compute = compileExpression(field.value);
    return { fixed: null, columns: null, bytes: null, read: (_, scope) => compute(scope) };
  }
  if (field.switch !== undefined) return switched(field, ready);
  if (typeof field.is === 'string')
    return namedType(`bytes(${new TextEncoder().encode(field.is).length})`, ready);
  if (Array.isArray(field.is)) return namedType(`bytes(${field.is.length})`, ready);
  throw new SheetError('it has no type: say type, fields, switch or value');
}

function switched(field: FieldOptions, ready: Ready): ReadyType {
  const choose = compileExpression(field.switch ?? 0);
  const cases = new Map(
    Object.entries(field.cases ?? {}).map(([name, inner]) => [
      name,
      inField(name, () => fieldType(inner, ready)),
    ]),
  );
  const other = field.else === undefined ? null : fieldType(field.else, ready);
  return {
    ...{ fixed: null, columns: null, bytes: null },
    read: (reading, scope) => {
      const value = choose(scope);
      const type = cases.get(plainText(value) ?? '') ?? other;
      if (!type)
        throw new SheetError(
          `${shown(value)} is none of the cases ${[...cases.keys()].slice(0, 12).join(', ')}`,
        );
      return type.read(reading, scope);
    },
  };
}

function withList({ count, until, keepLast }: FieldOptions, one: ReadyType): ReadyType {
  if (count === undefined && until === undefined) return one;
  const isToEnd = until === 'end';
  return listReader(one, {
    count: count === undefined ? null : compileExpression(count),
    literal: typeof count === 'number' ? count : null,
    until: until === undefined || isToEnd ? null : compileExpression(until),
    keepLast: keepLast ?? true,
  });
}

function unpackedType(packed: ReadyType, unpack: Unpack, as: ReadyType | null): ReadyType {
  return {
    ...{ fixed: null, columns: null, bytes: null },
    read: (reading, scope) => {
      const bytes = unpack(bytesOf(packed.read(reading, scope)), scope);
      if (!as) return bytes;
      return elsewhere(reading, sourceOf(bytes), 0, bytes.length, () => as.read(reading, scope));
    },
  };
}
