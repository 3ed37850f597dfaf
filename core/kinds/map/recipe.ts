import type { Placement } from '../../../contract/facts.ts';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { ofEuler, unit, yUp, type Quaternion } from './rotation.ts';
import { rowsOf, type Row } from './recipe-rows.ts';

export interface RecipeOutcome {
  rows: number;
  placements: Placement[];
  /** Rows that do not fit, and why: the first of them. */
  faults: string[];
  faultCount: number;
}

const mostFaults = 20;

/**
 * Reads a placement table by a recipe: positions in metres, Y up, rotations as unit quaternions. A row that does not fit is
 * told and left out; the rest goes on.
 * @throws ReadError where there are no rows to be found
 */
export function placementsByRecipe(bytes: Uint8Array, recipe: PlacementRecipe): RecipeOutcome {
  const rows = rowsOf(bytes, recipe);
  const outcome: RecipeOutcome = { rows: rows.length, placements: [], faults: [], faultCount: 0 };
  rows.forEach((row, at) => {
    try {
      outcome.placements.push(placementOf(row, at, recipe));
    } catch (error) {
      if (!(error instanceof RowFault)) throw error;
      outcome.faultCount++;
      if (outcome.faults.length < mostFaults) outcome.faults.push(`row ${at + 1}: ${error.message}`);
    }
  });
  return outcome;
}

class RowFault extends Error {}

function placementOf(row: Row, at: number, recipe: PlacementRecipe): Placement {
  const model = textOf(row, recipe.model);
  if (model === '') throw new RowFault(`no model at “${recipe.model}”`);
  const scale = numbersOf(row, recipe.scale, 3, 'scale');
  const place = numbersOf(row, recipe.position, 3, 'position') ?? [0, 0, 0];
  const position = triple(place.map((value) => value * recipe.metresPerUnit));
  const factors = triple(scale ?? [1, 1, 1]);
  const rotation = rotationOf(row, recipe);
  const isZUp = recipe.up === 'Z';
  return {
    id: textOf(row, recipe.id) || String(at + 1),
    model,
    class: textOf(row, recipe.class) || 'object',
    name: textOf(row, recipe.label),
    locator: textOf(row, recipe.locator),
    position: isZUp ? yUp(position) : position,
    // The axes of a scale change places, and no sign.
    scale: isZUp ? [factors[0], factors[2], factors[1]] : factors,
    rotation: isZUp ? [...yUp([rotation[0], rotation[1], rotation[2]]), rotation[3]] : rotation,
  };
}

function rotationOf(row: Row, { rotation }: PlacementRecipe): Quaternion {
  const { sort, fields, order, unit: angleUnit, quaternion } = rotation;
  if (sort === 'none') return [0, 0, 0, 1];
  if (sort === 'euler') {
    const angles = numbersOf(row, fields, 3, 'rotation') ?? [0, 0, 0];
    const factor = angleUnit === 'degrees' ? Math.PI / 180 : 1;
    return ofEuler(triple(angles.map((angle) => angle * factor)), order);
  }
  const [a = 0, b = 0, c = 0, d = 1] = numbersOf(row, fields, 4, 'rotation') ?? [0, 0, 0, 1];
  return unit(quaternion === 'xyzw' ? [a, b, c, d] : [b, c, d, a]);
}

/** @returns null where the recipe names no field */
function numbersOf(row: Row, fields: readonly string[], length: number, what: string): number[] | null {
  const named = fields.filter((field) => field !== '');
  if (named.length === 0) return null;
  const values = named.flatMap((field) => {
    // What is the same in every row is written as `=0`.
    const value = field.startsWith('=') ? field.slice(1) : row(field);
    if (value === undefined || value === null) throw new RowFault(`no ${what} at “${field}”`);
    if (Array.isArray(value)) return value as unknown[];
    // Numbers that stand in one text: `1 2 3`, `(1, 2, 3)`.
    if (typeof value === 'string' && named.length === 1)
      return value.split(/[\s,;()[\]]+/).filter((part) => part !== '');
    return [value];
  });
  const numbers = values.map((value) => {
    const number = typeof value === 'string' && value.trim() === '' ? NaN : Number(value);
    if (!Number.isFinite(number)) throw new RowFault(`${what}: “${String(value)}” is no number`);
    return number;
  });
  // One number scales all axes alike.
  if (what === 'scale' && numbers.length === 1) return [numbers[0] ?? 1, numbers[0] ?? 1, numbers[0] ?? 1];
  if (numbers.length < length)
    throw new RowFault(`${what}: ${length} numbers were expected, there are ${numbers.length}`);
  return numbers.slice(0, length);
}

function textOf(row: Row, field: string): string {
  if (field === '') return '';
  const value = row(field);
  return typeof value === 'string' ? value.trim() : typeof value === 'number' ? String(value) : '';
}

function triple([a = 0, b = 0, c = 0]: readonly number[]): [number, number, number] {
  return [a, b, c];
}
