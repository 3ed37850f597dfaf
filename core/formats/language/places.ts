import type { FieldOptions } from '../../../contract/format-sheets.ts';
import type { ReadyType } from './compile.ts';
import { compileExpression, isTrue, shown, wholeNumber, type Compute } from './expression.ts';
import { bytesOf } from './conversions.ts';
import { need, type ReadOne } from './plain-types.ts';
import { SheetError, offsetText } from './sheet-error.ts';
import { sourceOf, type Reading, type Struct, type Value } from './values.ts';

/** Where a field lies, whether it is there at all, how large it is, and in which byte order. */
export function withPlace(field: FieldOptions, type: ReadyType): ReadyType {
  const { at, in: within, if: condition, size, align, endian } = field;
  if ([at, within, condition, size, align, endian].every((option) => option === undefined)) return type;
  const compiled = (expression: FieldOptions['at']): Compute | null =>
    expression === undefined ? null : compileExpression(expression);
  const [place, bytes, test] = [compiled(at), compiled(within), compiled(condition)];
  const [extent, step] = [compiled(size), compiled(align)];
  const order = compiled(endian);
  const isFixed = order && !place && !bytes && !test && !extent && !step && typeof endian === 'string';
  const literal = isFixed && (endian === 'little' || endian === 'big') ? endian === 'little' : null;
  return {
    ...{ fixed: null, columns: null, bytes: null },
    // A number whose byte order is written down is as fixed as before.
    ...(literal !== null && type.fixed && { fixed: { ...type.fixed, isLittle: literal }, bytes: type.bytes }),
    read: (reading, scope) => {
      if (test && !isTrue(test(scope))) return null;
      const wasLittle = reading.isLittle;
      if (order) reading.isLittle = isLittleEndian(order(scope));
      const value =
        place || bytes
          ? elsewhereIn(reading, scope, place, bytes, () => sized(reading, scope, step, extent, type.read))
          : sized(reading, scope, step, extent, type.read);
      reading.isLittle = wasLittle;
      return value;
    },
  };
}

function isLittleEndian(value: Value): boolean {
  if (value === 'little' || value === 'big') return value === 'little';
  throw new SheetError(`a byte order is “little” or “big”, and here it is ${shown(value)}`);
}

function elsewhereIn(
  reading: Reading,
  scope: Struct,
  place: Compute | null,
  bytes: Compute | null,
  read: () => Value,
): Value {
  const source = bytes ? sourceOf(bytesOf(bytes(scope))) : reading.source;
  const at = place ? wholeNumber(place(scope), 'the place') : 0;
  const { length } = source.bytes;
  if (at > length)
    throw new SheetError(
      `it should lie at ${offsetText(at)}, and there are ${length.toLocaleString('en')} bytes`,
    );
  return elsewhere(reading, source, at, length, read);
}

function sized(
  reading: Reading,
  scope: Struct,
  step: Compute | null,
  extent: Compute | null,
  read: ReadOne,
): Value {
  if (step) {
    const multiple = wholeNumber(step(scope), 'alignment to');
    if (multiple < 1) throw new SheetError('alignment is to 1 byte or more');
    const gap = (multiple - (reading.at % multiple)) % multiple;
    need(reading, gap);
    reading.at += gap;
  }
  if (!extent) return read(reading, scope);
  const bytes = wholeNumber(extent(scope), 'a size of');
  need(reading, bytes);
  const [begin, end] = [reading.at, reading.end];
  reading.end = begin + bytes;
  const value = read(reading, scope);
  reading.end = end;
  reading.at = begin + bytes;
  return value;
}

/** Reads something at another place, and goes on where the reading was. */
export function elsewhere(
  reading: Reading,
  source: Reading['source'],
  at: number,
  end: number,
  read: () => Value,
): Value {
  const kept = { source: reading.source, at: reading.at, end: reading.end };
  Object.assign(reading, { source, at, end });
  const value = read();
  if (source.isFile) reading.trace?.moved(at, reading.at, true);
  Object.assign(reading, kept);
  return value;
}
