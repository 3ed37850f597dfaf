import type { NumberArray } from './scalars.ts';
import { SheetError } from './sheet-error.ts';
import { isNumbers, type Value } from './values.ts';

/** @throws SheetError */
export function numberOf(value: Value): number {
  if (typeof value === 'number') return value;
  if (typeof value === 'boolean') return Number(value);
  if (typeof value === 'bigint') throw new SheetError(`${value} is too large to be reckoned with`);
  throw new SheetError('a number was expected');
}

/** @throws SheetError */
export function textOf(value: Value): string {
  if (typeof value === 'string') return value;
  if (typeof value === 'number' || typeof value === 'bigint') return String(value);
  throw new SheetError('a text was expected');
}

/** @throws SheetError */
export function bytesOf(value: Value): Uint8Array {
  if (value instanceof Uint8Array) return value;
  if (isNumbers(value)) return new Uint8Array(value.buffer, value.byteOffset, value.byteLength);
  throw new SheetError('bytes were expected');
}

/** @throws SheetError */
export function numbersOf(value: Value): PlainNumbers {
  if (value instanceof BigUint64Array || value instanceof BigInt64Array)
    return Float64Array.from(value, (number) => Number(number));
  if (isNumbers(value)) return value;
  throw new SheetError('a list of numbers was expected');
}

type PlainNumbers = Exclude<NumberArray, BigUint64Array | BigInt64Array>;
