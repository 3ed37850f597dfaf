import type { ModelResult } from '../../../contract/format-sheets.ts';
import { compileExpression } from '../language/expression.ts';
import { numberOf, numbersOf, textOf } from '../language/conversions.ts';
import { SheetError } from '../language/sheet-error.ts';
import type { Struct } from '../language/values.ts';
import { compileItems, compileNumbers, optional, type ComputeNumbers } from './items.ts';

/** What vertices have, as the model’s library calls it, `size` numbers each. */
export interface PartAttribute {
  name: string;
  size: number;
  values: Float32Array;
}

/** A part of a model. */
export interface Part {
  name: string;
  attributes: PartAttribute[];
  /** Three to a triangle; null of points. */
  indices: Uint32Array<ArrayBuffer> | null;
  /** Number or name; -1 of none. */
  material: number | string;
}

type PartRule = ModelResult['parts'][number];
type Numbers = ArrayLike<number>;

export function compileParts(result: ModelResult): (root: Struct) => Generator<Part> {
  const rules = result.parts.map((rule) => compilePart(rule, result));
  return function* (root) {
    for (const rule of rules) yield* rule(root);
  };
}

interface Attribute {
  name: string;
  size: number;
  /** Numbers to a vertex that the file may have. */
  sizes: readonly number[];
  compute: ComputeNumbers;
}

function compilePart(
  rule: PartRule,
  { clockwise, uvFromBelow }: ModelResult,
): (root: Struct) => Generator<Part> {
  const items = compileItems(rule);
  const [name, material, level] = [optional(rule.name), optional(rule.material), optional(rule.level)];
  const [indices, corners] = [optional(rule.indices), optional(rule.corners)];
  const attributes = [
    attribute('position', 3, [3, 4], rule.positions),
    attribute('normal', 3, [3, 4], rule.normals),
    ...(rule.uvs ?? []).map((uv, at) => attribute(at === 0 ? 'uv' : `uv${at}`, 2, [2], uv)),
    attribute('color', 4, [3, 4], rule.colours),
    attribute('skinIndex', 4, [1, 2, 3, 4], rule.joints),
    attribute('skinWeight', 4, [1, 2, 3, 4], rule.weights),
  ].filter((one) => one !== null);
  if (rule.shapes === 'polygons' && !corners)
    throw new SheetError('polygons need corners: how many each has', null, 'model.parts');
  return function* (root) {
    for (const scope of items(root)) {
      const made: PartAttribute[] = [];
      let vertices = -1;
      for (const { name: key, size, sizes, compute } of attributes) {
        const numbers = compute(scope);
        if (numbers === null || (key !== 'position' && numbers.length === 0)) continue;
        if (vertices < 0) vertices = verticesOf(numbers, sizes);
        const values = attributeValues(key, numbers, vertices, size, sizes, scope);
        if (key.startsWith('uv') && uvFromBelow !== true)
          // The form that is made here counts v from below.
          for (let at = 1; at < values.length; at += 2) values[at] = 1 - (values[at] as number);
        made.push({ name: key, size, values });
      }
      const found = indices?.(scope) ?? null;
      const list = found === null ? null : numbersOf(found);
      let shape: Part['indices'] = null;
      if (rule.shapes !== 'points') {
        const each = corners?.(scope) ?? null;
        shape = trianglesOf(rule.shapes, list, each === null ? null : cornersOf(each), vertices, scope);
        checkIndices(shape, vertices);
        if (clockwise) turn(shape);
      }
      const lod = level ? numberOf(level(scope)) : 0;
      const called = name ? textOf(name(scope)) : '';
      const which = material?.(scope) ?? null;
      yield {
        ...{ attributes: made, indices: shape },
        name: lod > 0 ? `${called} (level ${lod})` : called,
        material: which === null ? -1 : typeof which === 'string' ? which : numberOf(which),
      };
    }
  };
}

function attribute(
  name: string,
  size: number,
  sizes: readonly number[],
  numbers: PartRule['normals'],
): Attribute | null {
  const compute = compileNumbers(numbers);
  return compute && { name, size, sizes, compute };
}

/** How many numbers each corner list has; one number stands for all. */
function cornersOf(value: ReturnType<ReturnType<typeof compileExpression>>): Numbers | number {
  return typeof value === 'number' ? value : numbersOf(value);
}

function verticesOf(positions: Numbers, sizes: readonly number[]): number {
  const size = sizes.find((candidate) => positions.length % candidate === 0);
  if (size === undefined)
    throw new SheetError(
      `there are ${positions.length.toLocaleString('en')} numbers of positions, which is no multiple of 3`,
    );
  return positions.length / size;
}

function attributeValues(
  name: string,
  numbers: Numbers,
  vertices: number,
  size: number,
  sizes: readonly number[],
  { reading: { budget } }: Struct,
): Float32Array {
  const own = vertices === 0 ? size : numbers.length / vertices;
  if (!sizes.includes(own))
    throw new SheetError(
      `there are ${vertices.toLocaleString('en')} vertices, and ${numbers.length.toLocaleString('en')} numbers for their ${name}`,
    );
  budget.step(vertices);
  budget.allocate(vertices * size * 4);
  if (own === size) return Float32Array.from(numbers);
  const values = new Float32Array(vertices * size);
  const filled = name === 'color' ? 1 : 0;
  for (let vertex = 0; vertex < vertices; vertex++)
    for (let part = 0; part < size; part++)
      values[vertex * size + part] = part < own ? (numbers[vertex * own + part] as number) : filled;
  return values;
}

function trianglesOf(
  shapes: PartRule['shapes'],
  indices: Numbers | null,
  corners: Numbers | number | null,
  vertices: number,
  { reading: { budget } }: Struct,
): Uint32Array<ArrayBuffer> {
  const count = indices?.length ?? vertices;
  budget.step(count);
  budget.allocate(count * 12);
  const at = (corner: number): number => (indices ? (indices[corner] as number) : corner);
  switch (shapes) {
    case 'strip': {
      // An even place turns one way, an odd one the other; a triangle with two corners at one place only leads on.
      const list: number[] = [];
      for (let corner = 0; corner + 2 < count; corner++) {
        const [a, b, c] = [at(corner), at(corner + 1), at(corner + 2)];
        if (a === b || b === c || a === c) continue;
        if (corner % 2 === 0) list.push(a, b, c);
        else list.push(b, a, c);
      }
      return Uint32Array.from(list);
    }
    case 'fan': {
      const list: number[] = [];
      for (let corner = 1; corner + 1 < count; corner++) list.push(at(0), at(corner), at(corner + 1));
      return Uint32Array.from(list);
    }
    case 'polygons': {
      const list: number[] = [];
      let begin = 0;
      for (let face = 0; begin < count; face++) {
        const size = typeof corners === 'number' ? corners : (corners?.[face] ?? 0);
        if (!(Number.isInteger(size) && size >= 1 && begin + size <= count))
          throw new SheetError(`face ${face} has ${size} corners, and ${count - begin} are left`);
        for (let corner = 1; corner + 1 < size; corner++)
          list.push(at(begin), at(begin + corner), at(begin + corner + 1));
        begin += size;
      }
      return Uint32Array.from(list);
    }
    default:
      if (count % 3 !== 0)
        throw new SheetError(`${count.toLocaleString('en')} corners are no whole number of triangles`);
      return indices ? Uint32Array.from(indices) : inOrder(count);
  }
}

/** Corners one after the other. A loop: `from` with a function takes ten times as long. */
function inOrder(count: number): Uint32Array<ArrayBuffer> {
  const indices = new Uint32Array(count);
  for (let corner = 0; corner < count; corner++) indices[corner] = corner;
  return indices;
}

function checkIndices(indices: Uint32Array, vertices: number): void {
  for (const index of indices)
    if (index >= vertices)
      throw new SheetError(
        `a corner is vertex ${index.toLocaleString('en')}, and there are ${vertices.toLocaleString('en')}`,
      );
}

/** The other way round, in place. */
function turn(indices: Uint32Array): void {
  for (let at = 0; at + 2 < indices.length; at += 3) {
    const kept = indices[at + 1] as number;
    indices[at + 1] = indices[at + 2] as number;
    indices[at + 2] = kept;
  }
}
