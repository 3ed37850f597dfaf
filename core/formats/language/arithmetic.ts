import type { Budget } from './budget.ts';
import { SheetError } from './sheet-error.ts';
import { isNumbers, plainText, type Value } from './values.ts';

/** An operator of two values. Integers are those of mathematics: they do not turn over at 32 bits. */
export interface Operator {
  sign: string;
  numbers: (a: number, b: number) => number | boolean;
  wide?: (a: bigint, b: bigint) => bigint | boolean;
  texts?: (a: string, b: string) => string | boolean;
}

const inInt = (value: number): boolean => value >= 0 && value <= 0x7fffffff;

/** Of whole numbers of any size, where those of the machine have 32 bits. */
function bitwise(
  sign: string,
  narrow: (a: number, b: number) => number,
  wide: (a: bigint, b: bigint) => bigint,
) {
  return {
    sign,
    numbers(a: number, b: number): number {
      if (inInt(a) && inInt(b)) return narrow(a, b);
      if (!Number.isSafeInteger(a) || !Number.isSafeInteger(b))
        throw new SheetError(`${sign} is of whole numbers, and there are ${a} and ${b}`);
      return Number(wide(BigInt(a), BigInt(b)));
    },
    wide,
  };
}

const mostShift = 1024n;

function shift(a: bigint, b: bigint): bigint {
  if (b > mostShift || b < -mostShift) throw new SheetError(`a shift by ${b} bits is too far`);
  return a << b;
}

const operators: Operator[] = [
  { sign: '+', numbers: (a, b) => a + b, wide: (a, b) => a + b, texts: (a, b) => a + b },
  { sign: '-', numbers: (a, b) => a - b, wide: (a, b) => a - b },
  { sign: '*', numbers: (a, b) => a * b, wide: (a, b) => a * b },
  { sign: '/', numbers: (a, b) => dividing(a / b, b), wide: (a, b) => a / nonZero(b) },
  { sign: '%', numbers: (a, b) => dividing(a - b * Math.floor(a / b), b), wide: (a, b) => a % nonZero(b) },
  bitwise(
    '&',
    (a, b) => a & b,
    (a, b) => a & b,
  ),
  bitwise(
    '|',
    (a, b) => a | b,
    (a, b) => a | b,
  ),
  bitwise(
    '^',
    (a, b) => a ^ b,
    (a, b) => a ^ b,
  ),
  {
    sign: '<<',
    numbers: (a, b) => a * 2 ** b,
    wide: shift,
  },
  { sign: '>>', numbers: (a, b) => Math.floor(a / 2 ** b), wide: (a, b) => shift(a, -b) },
  { sign: '==', numbers: (a, b) => a === b, wide: (a, b) => a === b, texts: (a, b) => a === b },
  { sign: '!=', numbers: (a, b) => a !== b, wide: (a, b) => a !== b, texts: (a, b) => a !== b },
  { sign: '<', numbers: (a, b) => a < b, wide: (a, b) => a < b, texts: (a, b) => a < b },
  { sign: '>', numbers: (a, b) => a > b, wide: (a, b) => a > b, texts: (a, b) => a > b },
  { sign: '<=', numbers: (a, b) => a <= b, wide: (a, b) => a <= b, texts: (a, b) => a <= b },
  { sign: '>=', numbers: (a, b) => a >= b, wide: (a, b) => a >= b, texts: (a, b) => a >= b },
];

export const arithmetic: Readonly<Record<string, Operator>> = {
  ...Object.fromEntries(operators.map((operator) => [operator.sign, operator])),
};

function dividing(result: number, by: number): number {
  if (by === 0) throw new SheetError('something is divided by 0');
  return result;
}

function nonZero(value: bigint): bigint {
  if (value === 0n) throw new SheetError('something is divided by 0');
  return value;
}

/** The operator of values that are not both numbers: wide integers, texts, or each number of a list. */
export function mapped(operator: Operator, a: Value, b: Value, budget: Budget): Value {
  if (isNumbers(a) || isNumbers(b)) return ofLists(operator, a, b, budget);
  if (typeof a === 'string' || typeof b === 'string') {
    const [left, right] = [plainText(a), plainText(b)];
    if (operator.texts && left !== null && right !== null) {
      if (operator.sign === '+') budget.allocate((left.length + right.length) * 2);
      if (operator.sign !== '+' && typeof a !== typeof b) return operator.sign === '!=';
      return operator.texts(left, right);
    }
  } else if (isWhole(a) && isWhole(b) && (typeof a === 'bigint' || typeof b === 'bigint')) {
    if (!operator.wide) throw new SheetError(`${operator.sign} is not of integers of 64 bits`);
    const found = operator.wide(BigInt(a), BigInt(b));
    return typeof found === 'bigint' && Number.isSafeInteger(Number(found)) ? Number(found) : found;
  } else if (isNumeric(a) && isNumeric(b)) return operator.numbers(Number(a), Number(b));
  if (operator.sign === '==') return a === b;
  if (operator.sign === '!=') return a !== b;
  throw new SheetError(`${operator.sign} is not of what stands beside it`);
}

function isWhole(value: Value): value is number | bigint {
  return typeof value === 'bigint' || (typeof value === 'number' && Number.isSafeInteger(value));
}

function isNumeric(value: Value): value is number | boolean | bigint {
  return typeof value === 'number' || typeof value === 'boolean' || typeof value === 'bigint';
}

/** Each number of a list with the number, or with that at the same place of a list as long. */
function ofLists({ sign, numbers }: Operator, a: Value, b: Value, budget: Budget): Float64Array {
  const length = isNumbers(a) ? a.length : isNumbers(b) ? b.length : 0;
  if (isNumbers(a) && isNumbers(b) && a.length !== b.length)
    throw new SheetError(`${sign} is of lists of one length, and there are ${a.length} and ${b.length}`);
  budget.step(length);
  budget.allocate(length * 8);
  const left = isNumbers(a) ? a : Number(a);
  const right = isNumbers(b) ? b : Number(b);
  const result = new Float64Array(length);
  for (let at = 0; at < length; at++)
    result[at] = Number(
      numbers(
        typeof left === 'number' ? left : Number(left[at]),
        typeof right === 'number' ? right : Number(right[at]),
      ),
    );
  return result;
}
