import { numberOf, numbersOf, textOf } from './conversions.ts';
import type { Called } from './functions.ts';
import { numbersOfLists } from './number-lists.ts';
import { octahedral, quaternionsOfFour, quaternionsOfThree, withW } from './packed-turns.ts';
import { SheetError } from './sheet-error.ts';
import { countOf, isNumbers, itemOf, List, Struct } from './values.ts';

/** What expressions can call of lists. */
export const listFunctions: Readonly<Record<string, Called>> = {
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
  total: {
    arguments: [1, 1],
    says: 'numbers of a list added up',
    run: ([value = null], { reading: { budget } }) => {
      const numbers = numbersOf(value);
      budget.step(numbers.length);
      let all = 0;
      for (let at = 0; at < numbers.length; at++) all += numbers[at] as number;
      return all;
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
        for (let time = 0; time < count; time++)
          for (let part = 0; part < size; part++) found[to++] = numbers[from + part] as number;
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
  indexOf: {
    arguments: [2, 2],
    says: 'the place of a number or text in a list, from 0; -1 where it is not there',
    run: ([list = null, wanted = null], { reading: { budget } }) => {
      const count = countOf(list);
      if (count === null) throw new SheetError('indexOf is of lists');
      for (let at = 0; at < count; at++) {
        budget.step();
        if (itemOf(list, at) === wanted) return at;
      }
      return -1;
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
