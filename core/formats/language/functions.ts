import { adler32, crc32, fnv1a32, fnv1a64, sum } from './check-sums.ts';
import { bytesOf, numberOf, textOf } from './conversions.ts';
import { listFunctions } from './list-functions.ts';
import { SheetError } from './sheet-error.ts';
import { decodeBytes, textAt } from './texts.ts';
import { countOf, isNumbers, type Struct, type Value } from './values.ts';

/** A function of expressions. */
export interface Called {
  /** The least and the most that it takes. */
  arguments: readonly [number, number];
  /** What completion tells of it. */
  says: string;
  run: (values: readonly Value[], scope: Struct) => Value;
}

function ofNumbers(says: string, compute: (value: number) => number): Called {
  return {
    arguments: [1, 1],
    says,
    run: ([value = null], { reading: { budget } }) => {
      if (!isNumbers(value)) return compute(numberOf(value));
      budget.step(value.length);
      budget.allocate(value.length * 8);
      return Float64Array.from(value as Float64Array, (number) => compute(Number(number)));
    },
  };
}

function ofBytes(says: string, compute: (bytes: Uint8Array) => number | bigint): Called {
  return {
    arguments: [1, 1],
    says,
    run: ([value = null], { reading: { budget } }) => {
      const bytes = typeof value === 'string' ? new TextEncoder().encode(value) : bytesOf(value);
      budget.step(bytes.length >> 3);
      const found = compute(bytes);
      return typeof found === 'bigint' && Number.isSafeInteger(Number(found)) ? Number(found) : found;
    },
  };
}

/** What expressions can call. */
export const functions: Readonly<Record<string, Called>> = {
  size: {
    arguments: [1, 1],
    says: 'bytes of bytes, letters of a text, things of a list',
    run: ([value = null]) => {
      if (typeof value === 'string') return value.length;
      if (isNumbers(value)) return value.byteLength;
      const count = countOf(value);
      if (count === null) throw new SheetError('size is of bytes, texts and lists');
      return count;
    },
  },
  count: {
    arguments: [1, 1],
    says: 'how many things a list has',
    run: ([value = null]) => {
      const count = countOf(value);
      if (count === null) throw new SheetError('count is of lists');
      return count;
    },
  },
  min: { arguments: [1, 16], says: 'the least', run: (values) => least(values, Math.min) },
  max: { arguments: [1, 16], says: 'the greatest', run: (values) => least(values, Math.max) },
  floor: ofNumbers('rounded down', Math.floor),
  ceil: ofNumbers('rounded up', Math.ceil),
  round: ofNumbers('rounded', Math.round),
  abs: ofNumbers('without its sign', Math.abs),
  sqrt: ofNumbers('its square root', Math.sqrt),
  sin: ofNumbers('sine of radians', Math.sin),
  cos: ofNumbers('cosine of radians', Math.cos),
  linear: ofNumbers('light of an sRGB colour, both from 0 to 1 (IEC 61966-2-1)', (value) =>
    value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4,
  ),
  log2: ofNumbers('its logarithm to base 2', Math.log2),
  /** As numbers with a sign: of so many bits. */
  signed: {
    arguments: [2, 2],
    says: 'with a sign, of so many bits',
    run: ([value = null, bits = null]) => {
      const full = 2 ** numberOf(bits);
      const number = numberOf(value) % full;
      return number >= full / 2 ? number - full : number;
    },
  },
  align: {
    arguments: [2, 2],
    says: 'the next multiple',
    run: ([value = null, step = null]) => Math.ceil(numberOf(value) / numberOf(step)) * numberOf(step),
  },
  crc32: ofBytes('CRC-32 as ZIP has it', crc32),
  adler32: ofBytes('Adler-32 as zlib has it', adler32),
  sum: ofBytes('all bytes added up', sum),
  fnv1a32: ofBytes('FNV-1a of 32 bits', fnv1a32),
  fnv1a64: ofBytes('FNV-1a of 64 bits', fnv1a64),
  bytes: {
    arguments: [2, 3],
    says: 'bytes of the file, or of others, from a place on',
    run: (values, { reading }) => {
      const [from, place = null, length = null] =
        values.length === 3
          ? [bytesOf(values[0] ?? null), values[1], values[2]]
          : [reading.file.bytes, ...values];
      const [begin, count] = [numberOf(place), numberOf(length)];
      if (!(begin >= 0 && count >= 0 && begin + count <= from.length))
        throw new SheetError(
          `bytes ${begin.toLocaleString('en')} to ${(begin + count).toLocaleString('en')} are not there: there are ${from.length.toLocaleString('en')}`,
        );
      return from.subarray(begin, begin + count);
    },
  },
  text: {
    arguments: [1, 2],
    says: 'bytes or a number as text, up to the first 0',
    run: ([value = null, encoding = null], { reading: { budget } }) => {
      if (!isNumbers(value)) return textOf(value);
      const bytes = bytesOf(value);
      budget.allocate(bytes.length * 2);
      return decodeBytes(bytes, encoding === null ? 'utf-8' : textOf(encoding));
    },
  },
  textAt: {
    arguments: [2, 3],
    says: 'the text that begins at a place of bytes and ends at a 0',
    run: ([value = null, place = null, encoding = null], { reading: { budget } }) =>
      textAt(bytesOf(value), numberOf(place), encoding === null ? 'utf-8' : textOf(encoding), budget),
  },
  number: {
    arguments: [1, 2],
    says: 'the number that a text is, to base 10 or another one',
    run: ([value = null, base = null]) => {
      if (typeof value !== 'string') return numberOf(value);
      const text = value.replaceAll('\0', '').trim();
      const number = base === null ? Number(text) : parseInt(text, numberOf(base));
      if (text === '' || !Number.isFinite(number)) throw new SheetError(`“${value}” is no number`);
      return number;
    },
  },
  hex: {
    arguments: [1, 2],
    says: 'a number to base 16, with so many digits',
    run: ([value = null, digits = null]) => {
      const number = typeof value === 'bigint' ? value : BigInt(Math.floor(numberOf(value)));
      return number.toString(16).padStart(Math.min(64, digits === null ? 0 : numberOf(digits)), '0');
    },
  },
  lower: { arguments: [1, 1], says: 'in small letters', run: ([text = null]) => textOf(text).toLowerCase() },
  upper: {
    arguments: [1, 1],
    says: 'in capital letters',
    run: ([text = null]) => textOf(text).toUpperCase(),
  },
  replace: {
    arguments: [3, 3],
    says: 'a text with a part of it replaced everywhere',
    run: ([text = null, part = null, by = null], { reading: { budget } }) => {
      const pieces = textOf(text).split(textOf(part));
      budget.allocate(pieces.length * (textOf(by).length + 16) * 2);
      return pieces.join(textOf(by));
    },
  },
  startsWith: {
    arguments: [2, 2],
    says: 'whether a text begins so',
    run: ([text = null, begin = null]) => textOf(text).startsWith(textOf(begin)),
  },
  /** Its own name without the last ending, in the same folder. */
  beside: {
    arguments: [1, 1],
    says: 'the name of the file with another ending',
    run: ([ending = null], { reading }) =>
      `${reading.path.slice(reading.path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '')}${textOf(ending)}`,
  },
  sister: {
    arguments: [1, 1],
    says: 'bytes of another file of the build, by its name from here',
    run: ([name = null], { reading }) => {
      const bytes = reading.sister(textOf(name));
      if (!bytes) throw new SheetError(`the file ${textOf(name)} is missing`);
      return bytes;
    },
  },
  ...listFunctions,
};

function least(values: readonly Value[], choose: (...numbers: number[]) => number): number {
  const [only = null] = values;
  if (values.length > 1 || !isNumbers(only)) return choose(...values.map(numberOf));
  let found = NaN;
  for (const number of only) found = Number.isNaN(found) ? Number(number) : choose(found, Number(number));
  return found;
}
