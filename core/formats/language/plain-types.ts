import type { Reading, Source, Struct, Value } from './values.ts';
import { wholeNumber, type Compute } from './expression.ts';
import { isScalar, scalars, wideValue, type ScalarName } from './scalars.ts';
import { offsetText, SheetError } from './sheet-error.ts';
import { decodeBytes, decoderOf, endOfText, widthOf } from './texts.ts';
import type { TypeWords } from './type-words.ts';

/** Reads a thing where the reading is, and goes on behind it. @throws SheetError */
export type ReadOne = (reading: Reading, scope: Struct) => Value;

/** A thing that always has the same size, and needs nothing but its bytes. */
export interface Fixed {
  bytes: number;
  scalar: ScalarName;
  /** Null where the field’s surroundings say it. */
  isLittle: boolean | null;
  of?: (source: Source, at: number, isLittle: boolean) => Value;
}

export interface PlainType {
  read: ReadOne;
  fixed: Fixed | null;
}

/** @throws SheetError where the bytes end before */
export function need(reading: Reading, bytes: number): void {
  if (bytes <= reading.end - reading.at) return;
  const there = Math.max(0, reading.end - reading.at);
  const what =
    reading.source.isFile && reading.end === reading.file.bytes.length ? 'the file' : 'what it lies in';
  throw new SheetError(
    `${bytes.toLocaleString('en')} ${bytes === 1 ? 'byte is' : 'bytes are'} needed at ${offsetText(reading.at)}, and ${what} has ${there.toLocaleString('en')} more`,
    reading.at,
  );
}

/**
 * Types that a sheet need not describe. `encoding` is that of texts.
 * @returns null where there is none of that name @throws SheetError
 */
export function plainType(
  { name, argument }: TypeWords,
  encoding: string,
  compile: (expression: string) => Compute,
): PlainType | null {
  const ordered = /^([uif]\d+)(le|be)$/.exec(name);
  const scalar = ordered?.[1] ?? name;
  if (isScalar(scalar)) {
    without(argument, name);
    return scalarType(scalar, ordered ? ordered[2] === 'le' : null);
  }
  switch (name) {
    case 'string':
      return stringType(argument, encoding, compile);
    case 'bytes':
    case 'skip':
      return bytesType(argument, compile);
    case 'fixed':
    case 'ufixed':
      return fixedPoint(name, argument);
    case 'varint':
    case 'zigzag':
      without(argument, name);
      return { read: variable(name === 'zigzag'), fixed: null };
    case 'vlq':
      without(argument, name);
      return { read: variableFromAbove, fixed: null };
    default:
      return null;
  }
}

function without(argument: string | null, name: string): void {
  if (argument !== null) throw new SheetError(`${name} takes nothing in brackets`);
}

function scalarType(scalar: ScalarName, isLittle: boolean | null): PlainType {
  const { bytes, read } = scalars[scalar];
  const isWide = scalar === 'u64' || scalar === 'i64';
  return {
    fixed: { bytes, scalar, isLittle },
    read: (reading) => {
      if (reading.at + bytes > reading.end) need(reading, bytes);
      const { view } = reading.source;
      const little = isLittle ?? reading.isLittle;
      const value = isWide ? wideValue(scalar, view, reading.at, little) : read(view, reading.at, little);
      reading.at += bytes;
      return value;
    },
  };
}

/** Up to a 0, or to the end of the line; of so many bytes, up to a 0 among them; or with its length, in bytes, before it. */
function stringType(
  argument: string | null,
  encoding: string,
  compile: (expression: string) => Compute,
): PlainType {
  decoderOf(encoding);
  if (argument === null)
    return {
      fixed: null,
      read: (reading) => {
        const bytes = reading.source.bytes.subarray(0, reading.end);
        const end = endOfText(bytes, reading.at, encoding);
        if (end + widthOf(encoding) > reading.end)
          throw new SheetError(`the text at ${offsetText(reading.at)} has no 0 at its end`, reading.at);
        reading.budget.step((end - reading.at) >> 4);
        reading.budget.allocate((end - reading.at) * 2);
        const text = decoderOf(encoding).decode(bytes.subarray(reading.at, end));
        reading.at = end + widthOf(encoding);
        return text;
      },
    };
  if (argument.trim() === 'line') return { fixed: null, read: lineText(encoding) };
  const words = /^\s*(u8|u16|u32|varint)(le|be)?\s*$/.exec(argument);
  if (words) {
    const length = plainType({ name: argument.trim(), argument: null, count: null }, encoding, compile);
    if (!length) throw new SheetError(`a text cannot have its length as ${argument}`);
    return { fixed: null, read: sizedText(encoding, (reading, scope) => length.read(reading, scope)) };
  }
  const size = compile(argument);
  const literal = /^\s*\d+\s*$/.test(argument) ? Number(argument) : null;
  return {
    fixed:
      literal === null
        ? null
        : {
            ...{ bytes: literal, scalar: 'u8', isLittle: true },
            of: ({ bytes }, at) => decodeBytes(bytes.subarray(at, at + literal), encoding),
          },
    read: sizedText(encoding, (_, scope) => size(scope)),
  };
}

/** A line of text among bytes: up to a line feed, which is passed, without a carriage return before it. */
function lineText(encoding: string): ReadOne {
  return (reading) => {
    const { bytes } = reading.source;
    const end = bytes.indexOf(10, reading.at);
    if (end < 0 || end >= reading.end)
      throw new SheetError(`the text at ${offsetText(reading.at)} has no line feed at its end`, reading.at);
    reading.budget.step((end - reading.at) >> 4);
    reading.budget.allocate((end - reading.at) * 2);
    const text = decodeBytes(bytes.subarray(reading.at, end), encoding);
    reading.at = end + 1;
    return text.endsWith('\r') ? text.slice(0, -1) : text;
  };
}

function sizedText(encoding: string, sizeOf: ReadOne): ReadOne {
  return (reading, scope) => {
    const size = wholeNumber(sizeOf(reading, scope), 'a text of size');
    need(reading, size);
    reading.budget.step(size >> 4);
    reading.budget.allocate(size * 2);
    const text = decodeBytes(reading.source.bytes.subarray(reading.at, reading.at + size), encoding);
    reading.at += size;
    return text;
  };
}

/** Bytes as they are: a view of them, no copy. Without a size, all that is left. */
function bytesType(argument: string | null, compile: (expression: string) => Compute): PlainType {
  const size = argument === null || argument.trim() === 'end' ? null : compile(argument);
  const literal = argument !== null && /^\s*\d+\s*$/.test(argument) ? Number(argument) : null;
  return {
    fixed:
      literal === null
        ? null
        : {
            ...{ bytes: literal, scalar: 'u8', isLittle: true },
            of: ({ bytes }, at) => bytes.subarray(at, at + literal),
          },
    read: (reading, scope) => {
      const length = size ? wholeNumber(size(scope), 'a size of') : Math.max(0, reading.end - reading.at);
      need(reading, length);
      const bytes = reading.source.bytes.subarray(reading.at, reading.at + length);
      reading.at += length;
      return bytes;
    },
  };
}

const integerOfBits: Readonly<Record<number, readonly [ScalarName, ScalarName]>> = {
  8: ['i8', 'u8'],
  16: ['i16', 'u16'],
  24: ['i24', 'u24'],
  32: ['i32', 'u32'],
};

/** `fixed(16, 16)`: bits before and after the point, the sign among those before. */
function fixedPoint(name: 'fixed' | 'ufixed', argument: string | null): PlainType {
  const [, whole = '', part = ''] = /^\s*(\d+)\s*,\s*(\d+)\s*$/.exec(argument ?? '') ?? [];
  const scalar = integerOfBits[Number(whole) + Number(part)]?.[name === 'fixed' ? 0 : 1];
  if (!scalar)
    throw new SheetError(`${name} takes two numbers of bits, 8, 16, 24 or 32 in all, as ${name}(16, 16)`);
  const divisor = 2 ** Number(part);
  const plain = scalarType(scalar, null);
  const { bytes, read } = scalars[scalar];
  return {
    fixed: {
      bytes,
      scalar,
      isLittle: null,
      of: ({ view }, at, isLittle) => read(view, at, isLittle) / divisor,
    },
    read: (reading, scope) => (plain.read(reading, scope) as number) / divisor,
  };
}

/** Seven bits a byte, the lowest first, the highest bit set where more come (LEB128, as DWARF 5, section 7.6, has it). */
function variable(isZigzag: boolean): ReadOne {
  return (reading) => {
    const begin = reading.at;
    let value = 0;
    let scale = 1;
    for (let count = 0; ; count++) {
      if (count === 8)
        throw new SheetError(`the number at ${offsetText(begin)} has more than 8 bytes`, begin);
      need(reading, 1);
      const byte = reading.source.bytes[reading.at++] as number;
      value += (byte & 127) * scale;
      scale *= 128;
      if (byte < 128) break;
    }
    if (!Number.isSafeInteger(value))
      throw new SheetError(`the number at ${offsetText(begin)} is beyond 2^53`, begin);
    if (!isZigzag) return value;
    return value % 2 === 0 ? value / 2 : -(value + 1) / 2;
  };
}

/** Seven bits a byte, the highest first, the highest bit set where more come (Standard MIDI Files 1.0: variable-length quantity). */
const variableFromAbove: ReadOne = (reading) => {
  const begin = reading.at;
  let value = 0;
  for (let count = 0; ; count++) {
    // Eight bytes could be beyond 2^53.
    if (count === 7) throw new SheetError(`the number at ${offsetText(begin)} has more than 7 bytes`, begin);
    need(reading, 1);
    const byte = reading.source.bytes[reading.at++] as number;
    value = value * 128 + (byte & 127);
    if (byte < 128) return value;
  }
};
