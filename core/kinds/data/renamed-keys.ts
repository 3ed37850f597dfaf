import { isScalar } from '../keyed-values.ts';
import { bareName, elementOrder, spaceMark } from './elements.ts';
import type { DataIds } from './data-ids.ts';

/** Alike enough to be the same under another name: so much of what is in them is equal. */
const leastLikeness = 0.5;
const mostPairs = 40_000;

/** Keys that one of two objects has and the other calls otherwise. @returns older keys by newer ones */
export function matchRenamed(
  old: Readonly<Record<string, unknown>>,
  now: Readonly<Record<string, unknown>>,
  ids: DataIds,
): Map<string, string> {
  const [oldKeys, newKeys] = [old, now].map((holder) =>
    Object.keys(holder).filter((key) => key !== elementOrder),
  ) as [string[], string[]];
  const gone = oldKeys.filter((key) => !Object.hasOwn(now, key));
  const added = newKeys.filter((key) => !Object.hasOwn(old, key));
  const renamed = new Map<string, string>();
  if (gone.length === 0 || added.length === 0) return renamed;
  const taken = new Set<string>();
  const take = (key: string, before: string): void => {
    renamed.set(key, before);
    taken.add(before);
  };
  // An element of the same name in another namespace.
  for (const key of added) {
    const before = gone.find(
      (name) => !taken.has(name) && key.includes(spaceMark) && bareName(name) === bareName(key),
    );
    if (before !== undefined) take(key, before);
  }
  const [goneById, addedById] = [grouped(gone, old, ids), grouped(added, now, ids)];
  const place = (key: string, keys: readonly string[], others: Readonly<Record<string, unknown>>): number =>
    keys.slice(0, keys.indexOf(key)).filter((name) => Object.hasOwn(others, name)).length;
  // What has the same value, which no other has that came or went.
  for (const [id, [key, ...others]] of addedById) {
    const [before, ...rest] = goneById.get(id) ?? [];
    if (key === undefined || before === undefined || renamed.has(key) || taken.has(before)) continue;
    if (others.length + rest.length > 0) continue;
    const isOnly = gone.length === 1 && added.length === 1;
    const isInPlace = place(key, newKeys, old) === place(before, oldKeys, now);
    if (isTelling(now[key]) || (isOnly && isInPlace)) take(key, before);
  }
  // What holds much the same.
  const [left, right] = [
    gone.filter((key) => !taken.has(key) && !isScalar(old[key])),
    added.filter((key) => !renamed.has(key) && !isScalar(now[key])),
  ];
  if (left.length * right.length > mostPairs) return renamed;
  const pairs = right
    .flatMap((key) =>
      left.map((before) => ({ key, before, likeness: likenessOf(old[before], now[key], ids) })),
    )
    .filter(({ likeness }) => likeness >= leastLikeness)
    .sort((a, b) => b.likeness - a.likeness);
  for (const { key, before } of pairs) if (!renamed.has(key) && !taken.has(before)) take(key, before);
  return renamed;
}

function grouped(
  keys: readonly string[],
  holder: Readonly<Record<string, unknown>>,
  ids: DataIds,
): Map<number, string[]> {
  const byId = new Map<number, string[]>();
  for (const key of keys) {
    const id = ids.of(holder[key]);
    const list = byId.get(id);
    if (list) list.push(key);
    else byId.set(id, [key]);
  }
  return byId;
}

/** Whether that two values are equal says that they are one thing: 0, true and nothing are equal by chance. */
function isTelling(value: unknown): boolean {
  if (typeof value === 'string') return value.length > 2;
  if (typeof value === 'number') return Math.abs(value) > 9 || !Number.isInteger(value);
  if (Array.isArray(value)) return value.some(isTelling);
  return typeof value === 'object' && value !== null && Object.keys(value).length > 0;
}

/** Share of what two lists or objects have in common, by key and value; 0 for what is not of one sort. */
export function likenessOf(old: unknown, now: unknown, ids: DataIds, without = ''): number {
  if (isScalar(old) || isScalar(now) || Array.isArray(old) !== Array.isArray(now)) return 0;
  const [before, after] = [old, now].map((value) => {
    const counts = new Map<string, number>();
    const isList = Array.isArray(value);
    for (const [key, inner] of Object.entries(value as Record<string, unknown>)) {
      if (key === without || key === elementOrder) continue;
      const mark = `${isList ? '' : key} ${ids.of(inner)}`;
      counts.set(mark, (counts.get(mark) ?? 0) + 1);
    }
    return counts;
  }) as [Map<string, number>, Map<string, number>];
  let [common, all] = [0, 0];
  for (const [mark, count] of after) {
    common += Math.min(count, before.get(mark) ?? 0);
    all += Math.max(count, before.get(mark) ?? 0);
  }
  for (const [mark, count] of before) if (!after.has(mark)) all += count;
  return all === 0 ? 0 : common / all;
}
