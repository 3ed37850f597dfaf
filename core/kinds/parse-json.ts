import { LosslessNumber, parse } from 'lossless-json';
import { ReadError } from './reading.ts';

/** A number of more digits than a double holds, as it is written: its value would be another one. */
export { LosslessNumber as LongNumber } from 'lossless-json';

/** Numbers of so many digits, or with so large an exponent, may not fit into a double (IEEE 754: 15 digits always do). */
const mayBeLong = /[\d.]{16,}|\d[eE][+-]?\d{3}/;

/**
 * A JSON text with all digits of its numbers: what a double does not hold is a `LongNumber`.
 * @throws ReadError that names the line and column where the JSON breaks off
 */
export function parseJson(text: string): unknown {
  return parseJsonExactly(text).root;
}

/** The same, and whether all digits are there: not those of long numbers in what is nested deeper than calls may be. */
export function parseJsonExactly(text: string): { root: unknown; isExact: boolean } {
  const bare = text.replace(/^\ufeff/, '');
  let root: unknown;
  try {
    root = JSON.parse(bare);
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error);
    const position = Number(/position (\d+)/.exec(message)?.[1] ?? text.length);
    const before = text.slice(0, position).split('\n');
    throw new ReadError(
      `this is not valid JSON: it breaks at line ${before.length}, column ${(before.at(-1)?.length ?? 0) + 1}`,
    );
  }
  if (!mayBeLong.test(bare)) return { root, isExact: true };
  try {
    // Of a key that stands twice the last one counts, as for the platform (RFC 8259, section 4).
    const options = {
      parseNumber: numberOf,
      onDuplicateKey: ({ newValue }: { newValue: unknown }) => newValue,
    };
    return { root: parse(bare, null, options), isExact: true };
  } catch (error) {
    if (error instanceof RangeError) return { root, isExact: false };
    throw error;
  }
}

/** A number where a double holds it as it is written, else all of its digits. */
export function numberOf(text: string): number | LosslessNumber {
  const value = Number(text);
  return decimalOf(String(value)) === decimalOf(text) ? value : new LosslessNumber(text);
}

/** The value of a decimal number in one way of writing: its digits without zeros around them, and the power of ten behind them. */
export function decimalOf(text: string): string {
  const [, sign = '', whole = '', part = '', power = '0'] =
    /^([+-]?)(\d*)\.?(\d*)(?:[eE]([+-]?\d+))?$/.exec(text.trim()) ?? [];
  const digits = `${whole}${part}`.replace(/^0+/, '');
  const short = digits.replace(/0+$/, '');
  if (short === '') return '0';
  const exponent = BigInt(power) - BigInt(part.length) + BigInt(digits.length - short.length);
  return `${sign === '-' ? '-' : ''}${short}e${exponent}`;
}
