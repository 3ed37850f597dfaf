import type { Budget } from './budget.ts';
import { SheetError } from './sheet-error.ts';
import type { NumberArray } from './scalars.ts';

type Numbers = ArrayLike<number>;

/**
 * Normals from two numbers each, -1 to 1: Cigolle and others, A Survey of Efficient Representations for Independent Unit Vectors,
 * Journal of Computer Graphics Techniques 3(2), 2014, listing 2.
 * @returns xyz, of length 1
 */
export function octahedral(pairs: Numbers, budget: Budget): Float64Array {
  const count = groups(pairs, 2, 'octahedral');
  budget.step(count);
  budget.allocate(count * 24);
  const normals = new Float64Array(count * 3);
  for (let at = 0; at < count; at++) {
    let [x, y] = [pairs[at * 2] as number, pairs[at * 2 + 1] as number];
    const z = 1 - Math.abs(x) - Math.abs(y);
    if (z < 0) [x, y] = [(1 - Math.abs(y)) * (x < 0 ? -1 : 1), (1 - Math.abs(x)) * (y < 0 ? -1 : 1)];
    const length = Math.hypot(x, y, z) || 1;
    normals.set([x / length, y / length, z / length], at * 3);
  }
  return normals;
}

/** Quaternions of which three parts are there: the fourth makes their length 1. @param sign of w @returns xyzw */
export function withW(triples: Numbers, sign: 1 | -1, budget: Budget): Float64Array {
  const count = groups(triples, 3, 'quaternionOfThree');
  budget.step(count);
  budget.allocate(count * 32);
  const turns = new Float64Array(count * 4);
  for (let at = 0; at < count; at++) {
    const [x, y, z] = [0, 1, 2].map((part) => triples[at * 3 + part] as number) as [number, number, number];
    turns.set([x, y, z, sign * Math.sqrt(Math.max(0, 1 - x * x - y * y - z * z))], at * 4);
  }
  return turns;
}

/**
 * Quaternions whose largest part is left out, which of x, y, z and w that is stands in the two highest bits, and the others after it,
 * each from -1/√2 to 1/√2 (common practice, no published source).
 * @param bits of each part, 2 to 20 @returns xyzw, the largest part above 0
 */
export function quaternionsOfThree(packed: NumberArray, bits: number, budget: Budget): Float64Array {
  if (!(Number.isInteger(bits) && bits >= 2 && bits <= 20))
    throw new SheetError(`parts of ${bits} bits cannot be: there may be 2 to 20`);
  budget.step(packed.length);
  budget.allocate(packed.length * 32);
  const turns = new Float64Array(packed.length * 4);
  const full = 2 ** bits - 1;
  for (let at = 0; at < packed.length; at++) {
    let rest = BigInt(packed[at] as number | bigint);
    const parts: number[] = [];
    for (let part = 0; part < 3; part++) {
      parts.unshift(((Number(rest & BigInt(full)) / full) * 2 - 1) * Math.SQRT1_2);
      rest >>= BigInt(bits);
    }
    put(turns, at, Number(rest & 3n), parts);
  }
  return turns;
}

/**
 * Quaternions of four 16-bit integers with a sign: three parts, and in the fourth the scale with the place of the largest in its two
 * lowest bits (EXT_meshopt_compression, filter 1, “quaternion”).
 * @returns xyzw
 */
export function quaternionsOfFour(packed: Numbers, budget: Budget): Float64Array {
  const count = groups(packed, 4, 'smallestFour');
  budget.step(count);
  budget.allocate(count * 32);
  const turns = new Float64Array(count * 4);
  for (let at = 0; at < count; at++) {
    const last = packed[at * 4 + 3] as number;
    const one = last | 3;
    const [x, y, z] = [0, 1, 2].map((part) => ((packed[at * 4 + part] as number) / one) * Math.SQRT1_2);
    const place = last & 3;
    const w = Math.sqrt(Math.max(0, 1 - (x as number) ** 2 - (y as number) ** 2 - (z as number) ** 2));
    // The three follow the largest one, round the four.
    for (const [step, value] of [x as number, y as number, z as number].entries())
      turns[at * 4 + ((place + step + 1) % 4)] = value;
    turns[at * 4 + place] = w;
  }
  return turns;
}

function put(turns: Float64Array, at: number, largest: number, parts: readonly number[]): void {
  const rest = Math.sqrt(Math.max(0, 1 - parts.reduce((sum, part) => sum + part * part, 0)));
  let next = 0;
  for (let part = 0; part < 4; part++) turns[at * 4 + part] = part === largest ? rest : (parts[next++] ?? 0);
}

/** @throws SheetError where there is no whole number of groups */
function groups(numbers: Numbers, size: number, name: string): number {
  if (numbers.length % size !== 0)
    throw new SheetError(`${name} is of ${size} numbers each, and there are ${numbers.length}`);
  return numbers.length / size;
}
