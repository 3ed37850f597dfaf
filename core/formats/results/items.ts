import type { SheetExpression, SheetNumbers } from '../../../contract/format-sheets.ts';
import { compileExpression, isTrue, type Compute } from '../language/expression.ts';
import { numbersOf } from '../language/conversions.ts';
import { numbersOfLists } from '../language/number-lists.ts';
import type { NumberArray } from '../language/scalars.ts';
import { SheetError } from '../language/sheet-error.ts';
import { countOf, isNumbers, itemOf, List, Rows, Struct, Table, type Value } from '../language/values.ts';

/** For each thing of a list that a result is made of, what sees its fields. */
export type Items = (scope: Struct) => Generator<Struct>;

/** @param rule without `each` it is one thing, seen from where the result stands */
export function compileItems(rule: {
  each?: SheetExpression | undefined;
  if?: SheetExpression | undefined;
}): Items {
  const each = rule.each === undefined ? null : compileExpression(rule.each);
  const test = rule.if === undefined ? null : compileExpression(rule.if);
  return function* (scope) {
    if (!each) {
      if (!test || isTrue(test(scope))) yield scope;
      return;
    }
    const list = each(scope);
    if (list === null) return;
    const count = countOf(list);
    if (count === null) throw new SheetError('“each” is of a list');
    const { reading } = scope;
    for (let at = 0; at < count; at++) {
      reading.budget.step(4);
      const item = itemOf(list, at) ?? null;
      const inner = structuresIn(item);
      if (inner !== null) {
        for (let within = 0; within < inner; within++) {
          reading.budget.step(4);
          const struct = itemOf(item, within);
          if (struct instanceof Struct && (!test || isTrue(test(struct)))) yield struct;
        }
        continue;
      }
      let seen: Struct;
      if (item instanceof Struct) seen = item;
      else {
        seen = new Struct(reading, scope, scope.start, at);
        seen.item = item;
      }
      if (!test || isTrue(test(seen))) yield seen;
    }
  };
}

/** How many structures a list of them has, where it is one: `tracks.events` are those of all tracks. */
function structuresIn(item: Value): number | null {
  if (!(item instanceof List || item instanceof Rows || item instanceof Table || isNumbers(item)))
    return null;
  const count = countOf(item) ?? 0;
  return count === 0 || itemOf(item, 0) instanceof Struct ? count : null;
}

export function optional(expression: SheetExpression | undefined): Compute | null {
  return expression === undefined ? null : compileExpression(expression);
}

/** Numbers of a thing: a list, or a list for each of its parts, taken turn by turn. Null where there are none. */
export type ComputeNumbers = (scope: Struct) => Exclude<NumberArray, BigUint64Array | BigInt64Array> | null;

export function compileNumbers(numbers: SheetNumbers | undefined): ComputeNumbers | null {
  if (numbers === undefined) return null;
  if (!Array.isArray(numbers)) {
    const compute = compileExpression(numbers);
    return (scope) => {
      const value = compute(scope);
      if (value === null) return null;
      return typeof value === 'number' ? Float64Array.of(value) : numbersOf(value);
    };
  }
  const parts = numbers.map(compileExpression);
  return (scope) => {
    const values = parts.map((part) => part(scope));
    if (values.some(isNumbers)) return numbersOfLists(values, scope.reading.budget);
    return Float64Array.from(values, (value) => {
      if (typeof value !== 'number') throw new SheetError('a number was expected');
      return value;
    });
  };
}
