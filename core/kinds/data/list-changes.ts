import { equalEnds } from '../../equal-ends.ts';
import { diffArrays } from 'diff';
import { isScalar } from '../keyed-values.ts';
import { changeOf, isObject, type DataChange, type DataComparison } from './data-change.ts';
import { keyFieldOf, keyValue } from './key-field.ts';
import { inOrder } from './in-order.ts';
import { likenessOf } from './renamed-keys.ts';
import { ElementList } from './elements.ts';
import { shownValue } from './shown-value.ts';

/** How an item is named in the path of a change. */
export type ItemName = (index: number, list: readonly unknown[]) => string;

/** More edits than this are not looked for: what is left is told as gone and new. */
const mostEdits = 20_000;
/** Items of a gap between what is equal that are matched by likeness, at most. */
const mostPairs = 40_000;
const leastLikeness = 0.3;
/** What is matched by likeness though its name is another one is nearly all the same. */
const leastRenamed = 0.6;

/** Matches the items of two lists: by what names them, else in the order in which they stand. */
export function compareLists(
  old: readonly unknown[],
  now: readonly unknown[],
  path: string,
  comparison: DataComparison,
): void {
  const areElements = now instanceof ElementList;
  if (areElements && old.length === 1 && now.length === 1) {
    comparison.compare(old[0], now[0], path);
    return;
  }
  const field = keyFieldOf(old, now);
  // Elements are counted from 1 (XML Path Language), items of other lists from 0 (RFC 6901).
  const first = areElements ? 1 : 0;
  if (field === null) compareInOrder(old, now, path, comparison, (index) => `${path}[${index + first}]`);
  else
    compareByKey(old, now, field, path, comparison, (index, list) => {
      const value = keyValue(list[index], field) ?? '';
      return `${path}[${field.replace(/^@/, '')}=${value}]`;
    });
}

/** Items of either list by the value that names them. */
export function compareByKey(
  old: readonly unknown[],
  now: readonly unknown[],
  field: string,
  path: string,
  { ids, changes, compare }: DataComparison,
  nameOf: ItemName,
): void {
  const placeOf = (list: readonly unknown[]): Map<string, number> =>
    new Map(list.map((item, index) => [keyValue(item, field) ?? '', index]));
  const [before, after] = [placeOf(old), placeOf(now)];
  const pairs: [old: number, now: number][] = [];
  let added: number[] = [];
  for (const [key, index] of after) {
    const there = before.get(key);
    if (there === undefined) added.push(index);
    else pairs.push([there, index]);
  }
  let gone = [...before].filter(([key]) => !after.has(key)).map(([, index]) => index);
  const renamed = closest(gone, added, leastRenamed, (oldIndex, newIndex) =>
    likenessOf(old[oldIndex], now[newIndex], ids, field),
  );
  for (const [oldIndex, newIndex] of renamed) {
    const at = nameOf(newIndex, now);
    const names = [keyValue(old[oldIndex], field) ?? '', keyValue(now[newIndex], field) ?? ''] as const;
    changes.push(changeOf('renamed', at, shownValue(names[0]), shownValue(names[1]), 1));
    compare(without(old[oldIndex], field), without(now[newIndex], field), at);
  }
  gone = gone.filter((index) => !renamed.some(([oldIndex]) => oldIndex === index));
  added = added.filter((index) => !renamed.some(([, newIndex]) => newIndex === index));
  for (const [oldIndex, newIndex] of pairs) compare(old[oldIndex], now[newIndex], nameOf(newIndex, now));
  addItems(added, now, nameOf, changes, ids, path);
  for (const index of gone) changes.push(goneItem(old, index, nameOf, ids));
  const order = [...pairs, ...renamed].sort(([, a], [, b]) => a - b).map(([oldIndex]) => oldIndex);
  addMoved(order.length - inOrder(order), order.length, path, changes);
}

/** Items in the order in which they stand, by the shortest script of edits. */
export function compareInOrder(
  old: readonly unknown[],
  now: readonly unknown[],
  path: string,
  { ids, changes, compare }: DataComparison,
  nameOf: ItemName,
): void {
  const [before, after] = [old.map((item) => ids.of(item)), now.map((item) => ids.of(item))];
  const gaps = gapsBetween(before, after);
  // What went in one place and came in another moved.
  const loose = new Map<number, number>();
  for (const { gone } of gaps)
    for (const index of gone) loose.set(before[index] ?? 0, (loose.get(before[index] ?? 0) ?? 0) + 1);
  const moved = new Map<number, number>();
  for (const { added } of gaps)
    for (const index of added) {
      const id = after[index] ?? 0;
      if ((loose.get(id) ?? 0) <= (moved.get(id) ?? 0)) continue;
      moved.set(id, (moved.get(id) ?? 0) + 1);
    }
  const count = [...moved.values()].reduce((sum, number) => sum + number, 0);
  const [fromLeft, toLeft] = [new Map(moved), new Map(moved)];
  const isLoose = (left: Map<number, number>, id: number): boolean => {
    const number = left.get(id) ?? 0;
    if (number > 0) left.set(id, number - 1);
    return number > 0;
  };
  const fresh: number[] = [];
  for (const gap of gaps) {
    const gone = gap.gone.filter((index) => !isLoose(fromLeft, before[index] ?? 0));
    const added = gap.added.filter((index) => !isLoose(toLeft, after[index] ?? 0));
    const isPaired = gone.length === added.length;
    const pairs = closest(gone, added, isPaired ? 0 : leastLikeness, (oldIndex, newIndex) => {
      const [a, b] = [old[oldIndex], now[newIndex]];
      if (isScalar(a) && isScalar(b))
        return isPaired && gone.indexOf(oldIndex) === added.indexOf(newIndex) ? 1 : -1;
      return isScalar(a) || isScalar(b) ? -1 : likenessOf(a, b, ids);
    });
    for (const [oldIndex, newIndex] of pairs) compare(old[oldIndex], now[newIndex], nameOf(newIndex, now));
    fresh.push(...added.filter((index) => !pairs.some(([, newIndex]) => newIndex === index)));
    for (const index of gone)
      if (!pairs.some(([oldIndex]) => oldIndex === index)) changes.push(goneItem(old, index, nameOf, ids));
  }
  addItems(fresh, now, nameOf, changes, ids, path);
  addMoved(count, Math.min(old.length, now.length), path, changes);
}

function goneItem(
  list: readonly unknown[],
  index: number,
  nameOf: ItemName,
  ids: DataComparison['ids'],
): DataChange {
  const item = list[index];
  return {
    ...changeOf('gone', nameOf(index, list), shownValue(item), '', ids.values(item)),
    id: ids.of(item),
  };
}

function addItems(
  indices: readonly number[],
  list: readonly unknown[],
  nameOf: ItemName,
  changes: DataChange[],
  ids: DataComparison['ids'],
  path: string,
): void {
  const isFront = indices.length > 0 && indices.every((index, at) => index === at);
  const isEnd = indices.every((index, at) => index === list.length - indices.length + at);
  const field = path.slice(path.lastIndexOf('.') + 1);
  for (const index of indices)
    changes.push({
      ...changeOf('added', nameOf(index, list), '', shownValue(list[index]), ids.values(list[index])),
      id: ids.of(list[index]),
      field,
      place: isEnd ? 'end' : isFront ? 'front' : '',
    });
}

function addMoved(count: number, of: number, path: string, changes: DataChange[]): void {
  if (count > 0) changes.push({ ...changeOf('moved', path, '', `${count} of ${of}`, count), field: 'items' });
}

/** An object without the value that names it. */
function without(item: unknown, field: string): unknown {
  if (!isObject(item)) return item;
  return Object.fromEntries(Object.entries(item).filter(([key]) => key !== field));
}

/** Stretches in which two rows of numbers differ, by the shortest script of edits (Myers, 1986). */
function gapsBetween(
  before: readonly number[],
  after: readonly number[],
): { gone: number[]; added: number[] }[] {
  const { start, end } = equalEnds(before, after);
  const middle = [before.slice(start, before.length - end), after.slice(start, after.length - end)] as const;
  const runs = diffArrays([...middle[0]], [...middle[1]], { maxEditLength: mostEdits }) as
    { value: number[]; added?: boolean; removed?: boolean }[] | undefined;
  const range = (from: number, length: number): number[] => Array.from({ length }, (_, at) => from + at);
  if (!runs) return [{ gone: range(start, middle[0].length), added: range(start, middle[1].length) }];
  const gaps: { gone: number[]; added: number[] }[] = [];
  let [oldAt, newAt] = [start, start];
  let gap: { gone: number[]; added: number[] } | null = null;
  for (const { value, added, removed } of runs) {
    if (!added && !removed) {
      gap = null;
      oldAt += value.length;
      newAt += value.length;
      continue;
    }
    if (!gap) gaps.push((gap = { gone: [], added: [] }));
    if (removed) gap.gone.push(...range(oldAt, value.length));
    else gap.added.push(...range(newAt, value.length));
    if (removed) oldAt += value.length;
    else newAt += value.length;
  }
  return gaps;
}

/** Pairs of what is most alike first; of equals those that stand in the same order. */
function closest(
  gone: readonly number[],
  added: readonly number[],
  least: number,
  likeness: (old: number, now: number) => number,
): [old: number, now: number][] {
  if (gone.length === 0 || added.length === 0 || gone.length * added.length > mostPairs) return [];
  const found = gone.flatMap((old, oldAt) =>
    added.map((now, newAt) => ({ old, now, apart: Math.abs(oldAt - newAt), score: likeness(old, now) })),
  );
  found.sort((a, b) => b.score - a.score || a.apart - b.apart);
  const taken = [new Set<number>(), new Set<number>()] as const;
  const pairs: [number, number][] = [];
  for (const { old, now, score } of found) {
    if (score < least || taken[0].has(old) || taken[1].has(now)) continue;
    taken[0].add(old);
    taken[1].add(now);
    pairs.push([old, now]);
  }
  return pairs.sort(([, a], [, b]) => a - b);
}
