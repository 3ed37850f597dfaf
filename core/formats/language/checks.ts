import type { FieldOptions } from '../../../contract/format-sheets.ts';
import { sameBytes } from '../../bytes.ts';
import type { ReadyType } from './compile.ts';
import { compileExpression, shown } from './expression.ts';
import { wideValue } from './scalars.ts';
import { SheetError } from './sheet-error.ts';
import { isNumbers, plainText, Struct, type Source, type Value } from './values.ts';

/** What is said of a field’s value beside its type: what it must be, what its numbers are called, what its bits are. */
export function compileChecks(
  { is, equals, values, bits }: Pick<FieldOptions, 'is' | 'equals' | 'values' | 'bits'>,
  type: ReadyType,
): ReadyType {
  if (is === undefined && equals === undefined && values === undefined && bits === undefined) return type;
  const isRight = is === undefined ? null : constantTest(is);
  const other = equals === undefined ? null : compileExpression(equals);
  const parts = bits && bitParts(bits);
  const { read, fixed } = type;
  // A value that must be looked at is read by itself.
  const isFixed = fixed !== null && !isRight && !other && type.width === undefined;
  const name = (value: Value): Value =>
    (values && Object.hasOwn(values, plainText(value) ?? '') ? values[plainText(value) ?? ''] : null) ??
    value;
  return {
    columns: null,
    bytes: isFixed && !parts ? type.bytes : null,
    fixed:
      isFixed && values && !parts
        ? { ...fixed, of: (source, at, isLittle) => name(plainValue(fixed, source, at, isLittle)) }
        : null,
    read: (reading, scope) => {
      const begin = reading.at;
      const value = read(reading, scope);
      if (isRight && !isRight(value))
        throw new SheetError(`it is ${bytesText(value)}, and must be ${bytesText(constantValue(is))}`);
      if (other) {
        const wanted = other(scope);
        if (value !== wanted && (plainText(value) === null || plainText(value) !== plainText(wanted))) {
          if (reading.source.isFile && reading.mend?.(begin, reading.at, value, wanted)) return name(wanted);
          throw new SheetError(`it is ${shown(value)}, and must be ${shown(wanted)}`);
        }
      }
      if (!parts) return name(value);
      return splitBits(value, parts, new Struct(reading, scope, reading.at));
    },
  };
}

function plainValue(
  fixed: NonNullable<ReadyType['fixed']>,
  source: Source,
  at: number,
  isLittle: boolean,
): Value {
  return fixed.of ? fixed.of(source, at, isLittle) : wideValue(fixed.scalar, source.view, at, isLittle);
}

type Constant = NonNullable<FieldOptions['is']>;

function constantValue(is: Constant | undefined): Value {
  if (Array.isArray(is)) return Uint8Array.from(is);
  return is ?? null;
}

function constantTest(is: Constant): (value: Value) => boolean {
  const text =
    typeof is === 'string' ? new TextEncoder().encode(is) : Array.isArray(is) ? Uint8Array.from(is) : null;
  return (value) => {
    if (value instanceof Uint8Array && text) return sameBytes(value, text);
    return value === is;
  };
}

/** Bytes as letters where all are letters, else to base 16. */
function bytesText(value: Value): string {
  if (!isNumbers(value)) return shown(value);
  const bytes = [...new Uint8Array(value.buffer, value.byteOffset, Math.min(16, value.byteLength))];
  const more = value.byteLength > 16 ? ' …' : '';
  if (bytes.every((byte) => byte >= 32 && byte < 127)) return `“${String.fromCharCode(...bytes)}”${more}`;
  return `${bytes.map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ')}${more}`;
}

interface BitPart {
  name: string;
  /** 2 to the power of its lowest bit. */
  scale: number;
  size: number;
  isSigned: boolean;
}

function bitParts(bits: Record<string, number>): BitPart[] {
  let at = 0;
  return Object.entries(bits).map(([name, count]) => {
    const size = Math.abs(count);
    const part = { name, scale: 2 ** at, size: 2 ** size, isSigned: count < 0 };
    at += size;
    if (at > 64) throw new SheetError('there are more than 64 bits in it');
    return part;
  });
}

/** Parts of a number by their bits, the lowest first. */
function splitBits(value: Value, parts: readonly BitPart[], into: Struct): Struct {
  if (typeof value !== 'number' && typeof value !== 'bigint') throw new SheetError('bits are of a number');
  for (const { name, scale, size, isSigned } of parts) {
    const part =
      typeof value === 'bigint'
        ? Number((value / BigInt(scale)) % BigInt(size))
        : Math.floor((value < 0 ? value + 2 ** 32 : value) / scale) % size;
    into.values[name] = isSigned && part >= size / 2 ? part - size : part;
  }
  return into;
}
