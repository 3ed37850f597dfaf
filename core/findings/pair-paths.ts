/**
 * Pairs old paths of one content with new ones, nearest first: same name, then the longest common end of the
 * path, then order. Paths with the same name always share a longer end with one another than with a path of
 * another name (the end then holds the whole name and its slash), so that one key, the common end, serves
 * for both.
 *
 * Sorted by their reversed form, paths that share an end stand together; the pairing closes groups from the
 * longest common end to the shortest. O(n log n) in the number of paths, so that ten thousand copies of one
 * empty file cost no more than as many different ones.
 *
 * @returns pairs of [old, new], at most one of each path, in no particular order
 */
export function pairPaths(oldPaths: readonly string[], newPaths: readonly string[]): [string, string][] {
  if (oldPaths.length === 0 || newPaths.length === 0) return [];
  const items = [...oldPaths.map((path) => keyed(path, true)), ...newPaths.map((path) => keyed(path, false))];
  items.sort((a, b) => compare(a.key, b.key));

  const pairs: [string, string][] = [];
  // Each open group holds what is unpaired below an end of `length` characters that its members share.
  const open: { length: number; old: string[]; new: string[] }[] = [];
  const close = (length: number): void => {
    for (;;) {
      const top = open.at(-1);
      if (!top || top.length <= length) return;
      open.pop();
      settle(top, pairs);
      const below = open.at(-1);
      if (below && below.length >= length) {
        below.old.push(...top.old);
        below.new.push(...top.new);
      } else {
        open.push({ ...top, length });
        return;
      }
    }
  };
  items.forEach((item, index) => {
    const before = items[index - 1];
    if (before) close(commonLength(before.key, item.key));
    open.push({
      length: item.key.length + 1,
      old: item.isOld ? [item.path] : [],
      new: item.isOld ? [] : [item.path],
    });
  });
  close(-1);
  return pairs;
}

/** Of `candidates`, the one nearest to `path` by the same rule. */
export function nearestPath(path: string, candidates: readonly string[]): string | null {
  const key = reversed(path);
  let best: string | null = null;
  let bestLength = -1;
  for (const candidate of candidates) {
    const length = commonLength(key, reversed(candidate));
    if (length > bestLength || (length === bestLength && best !== null && compare(candidate, best) < 0)) {
      best = candidate;
      bestLength = length;
    }
  }
  return best;
}

/** Order of UTF-16 code units: the order of every list of paths here. */
export function compare(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/** Pairs what it can within one group, in order; leaves the rest in it. */
function settle(group: { old: string[]; new: string[] }, pairs: [string, string][]): void {
  const count = Math.min(group.old.length, group.new.length);
  if (count === 0) return;
  group.old.sort(compare);
  group.new.sort(compare);
  const olds = group.old.splice(0, count);
  const news = group.new.splice(0, count);
  olds.forEach((old, index) => pairs.push([old, news[index] ?? old]));
}

function keyed(path: string, isOld: boolean): { path: string; key: string; isOld: boolean } {
  return { path, key: reversed(path), isOld };
}

/** The slash in front lets a path without folders share its whole name with one in a folder. */
function reversed(path: string): string {
  return Array.from(`/${path}`).reverse().join('');
}

function commonLength(a: string, b: string): number {
  const end = Math.min(a.length, b.length);
  for (let i = 0; i < end; i++) if (a.charCodeAt(i) !== b.charCodeAt(i)) return i;
  return end;
}
