import type { Budget } from './budget.ts';
import { SheetError } from './sheet-error.ts';
import { isNumbers, type Value } from './values.ts';

/** Numbers of several lists of one length, turn by turn: x, y and z of the first, then of the second. @throws SheetError */
export function numbersOfLists(values: readonly Value[], budget: Budget): Float64Array {
  const lists = values.filter(isNumbers);
  const length = lists[0]?.length ?? 0;
  if (lists.length < values.length || lists.some((list) => list.length !== length))
    throw new SheetError('lists of numbers of one length were expected');
  budget.step(length * lists.length);
  budget.allocate(length * lists.length * 8);
  const all = new Float64Array(length * lists.length);
  lists.forEach((list, part) => {
    for (let at = 0; at < length; at++) all[at * lists.length + part] = Number(list[at]);
  });
  return all;
}
