import { adler32, crc32, fnv1a32, fnv1a64, sum } from './check-sums.ts';
import { octahedral, quaternionsOfFour, quaternionsOfThree, withW } from './packed-turns.ts';
import { numbersOfLists } from './number-lists.ts';
import type { NumberArray } from './scalars.ts';
import { SheetError } from './sheet-error.ts';
import { decodeBytes, textAt } from './texts.ts';
import { countOf, isNumbers, itemOf, List, Struct, type Value } from './values.ts';

interface Called {
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
  range: {
    arguments: [1, 1],
    says: 'numbers from 0 on, so many',
    run: ([value = null], { reading: { budget } }) => {
      const count = numberOf(value);
      budget.allocate(count * 8);
      budget.step(count);
      return Float64Array.from({ length: count }, (_, at) => at);
    },
  },
  cumulative: {
    arguments: [1, 1],
    says: 'for each number of a list the sum of those before it',
    run: ([value = null], { reading: { budget } }) => {
      const numbers = numbersOf(value);
      budget.allocate(numbers.length * 8);
      budget.step(numbers.length);
      let before = 0;
      return Float64Array.from(numbers, (number) => (before += number) - number);
    },
  },
  slice: {
    arguments: [3, 3],
    says: 'things of a list, from one on, so many',
    run: ([value = null, place = null, length = null], { reading: { budget } }) => {
      const total = countOf(value) ?? 0;
      const [begin, count] = [numberOf(place), numberOf(length)];
      if (!(begin >= 0 && count >= 0 && begin + count <= total))
        throw new SheetError(`a list of ${total} has no ${count} from ${begin} on`);
      if (isNumbers(value)) return value.subarray(begin, begin + count);
      budget.step(count);
      return new List(Array.from({ length: count }, (_, at) => itemOf(value, begin + at) ?? null));
    },
  },
  every: {
    arguments: [3, 4],
    says: 'of numbers in groups of so many those from a place on, so many (1)',
    run: ([value = null, group = null, place = null, length = 1], { reading: { budget } }) => {
      const numbers = numbersOf(value);
      const [size, at, width] = [numberOf(group), numberOf(place), numberOf(length)];
      if (!(size >= 1 && at >= 0 && width >= 1 && at + width <= size && numbers.length % size === 0))
        throw new SheetError(
          `${numbers.length} numbers have no groups of ${size} with ${width} from ${at} on`,
        );
      const rows = numbers.length / size;
      budget.step(rows * width);
      budget.allocate(rows * width * 8);
      const found = new Float64Array(rows * width);
      for (let row = 0, to = 0; row < rows; row++)
        for (let part = 0; part < width; part++) found[to++] = numbers[row * size + at + part] ?? 0;
      return found;
    },
  },
  repeatEach: {
    arguments: [3, 3],
    says: 'of numbers in groups of so many each group so many times',
    run: ([value = null, group = null, times = null], { reading: { budget } }) => {
      const numbers = numbersOf(value);
      const [size, count] = [numberOf(group), numberOf(times)];
      if (!(size >= 1 && count >= 0 && numbers.length % size === 0))
        throw new SheetError(`${numbers.length} numbers have no groups of ${size}`);
      budget.step(numbers.length * count);
      budget.allocate(numbers.length * count * 8);
      const found = new Float64Array(numbers.length * count);
      for (let from = 0, to = 0; from < numbers.length; from += size)
        for (let time = 0; time < count; time++, to += size)
          found.set(numbers.subarray(from, from + size), to);
      return found;
    },
  },
  at: {
    arguments: [3, 3],
    says: 'groups of so many numbers, by their places in a list',
    run: ([value = null, group = null, places = null], { reading: { budget } }) => {
      const [numbers, order, size] = [numbersOf(value), numbersOf(places), numberOf(group)];
      if (!(size >= 1 && size <= 64)) throw new SheetError(`there are no groups of ${size} numbers`);
      budget.step(order.length * size);
      budget.allocate(order.length * size * 8);
      const found = new Float64Array(order.length * size);
      for (let row = 0, to = 0; row < order.length; row++) {
        const from = (order[row] as number) * size;
        if (!(from >= 0 && from + size <= numbers.length))
          throw new SheetError(
            `there is no group ${order[row]} in ${numbers.length} numbers of ${size} each`,
          );
        for (let part = 0; part < size; part++) found[to++] = numbers[from + part] as number;
      }
      return found;
    },
  },
  find: {
    arguments: [3, 3],
    says: 'the first structure of a list whose field has a value; null where there is none',
    run: ([list = null, field = null, wanted = null], { reading: { budget } }) => {
      const count = countOf(list);
      if (count === null) throw new SheetError('find is of lists');
      const name = textOf(field);
      for (let at = 0; at < count; at++) {
        budget.step(4);
        const item = itemOf(list, at);
        if (item instanceof Struct && item.values[name] === wanted) return item;
      }
      return null;
    },
  },
  zip: {
    arguments: [2, 16],
    says: 'numbers of several lists, turn by turn',
    run: (values, { reading: { budget } }) => numbersOfLists(values, budget),
  },
  octahedral: {
    arguments: [1, 1],
    says: 'normals of pairs of numbers from -1 to 1',
    run: ([value = null], { reading: { budget } }) => octahedral(numbersOf(value), budget),
  },
  quaternionOfThree: {
    arguments: [1, 2],
    says: 'quaternions of x y z, with w above 0, or below it where the second value is -1',
    run: ([value = null, sign = 1], { reading: { budget } }) =>
      withW(numbersOf(value), numberOf(sign) < 0 ? -1 : 1, budget),
  },
  smallestThree: {
    arguments: [2, 2],
    says: 'quaternions of one number each: which part is the largest in 2 bits, then the three others of so many bits',
    run: ([value = null, bits = null], { reading: { budget } }) => {
      if (!isNumbers(value)) throw new SheetError('smallestThree is of a list of numbers');
      return quaternionsOfThree(value, numberOf(bits), budget);
    },
  },
  smallestFour: {
    arguments: [1, 1],
    says: 'quaternions of four integers each, as EXT_meshopt_compression has them',
    run: ([value = null], { reading: { budget } }) => quaternionsOfFour(numbersOf(value), budget),
  },
};

function least(values: readonly Value[], choose: (...numbers: number[]) => number): number {
  const [only = null] = values;
  if (values.length > 1 || !isNumbers(only)) return choose(...values.map(numberOf));
  let found = NaN;
  for (const number of only) found = Number.isNaN(found) ? Number(number) : choose(found, Number(number));
  return found;
}

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
