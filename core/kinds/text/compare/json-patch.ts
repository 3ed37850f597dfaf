import { equalEnds } from '../../../equal-ends.ts';
import { isObject } from '../../data/data-change.ts';
import { LongNumber } from '../../parse-json.ts';

/** One operation of a patch (RFC 6902, section 4); only those that are needed to get from one value to another. */
export type Operation =
  { op: 'add' | 'replace'; path: string; value: unknown } | { op: 'remove'; path: string };

/** Longer lists are replaced where they differ too much: comparing all with all would take too long. */
const mostListWork = 4_000_000;

/**
 * A patch by RFC 6902 that makes the older value the newer one. Items of lists are matched by their longest common
 * subsequence, so that one that was put in front does not change all after it.
 */
export function jsonPatch(old: unknown, now: unknown): Operation[] {
  const operations: Operation[] = [];
  patchValue(old, now, '', operations);
  return operations;
}

function patchValue(old: unknown, now: unknown, path: string, to: Operation[]): void {
  if (old === now || (old instanceof LongNumber && now instanceof LongNumber && old.value === now.value))
    return;
  if (Array.isArray(old) && Array.isArray(now)) patchList(old, now, path, to);
  else if (isObject(old) && isObject(now)) patchObject(old, now, path, to);
  else to.push({ op: 'replace', path, value: now });
}

function patchObject(
  old: Record<string, unknown>,
  now: Record<string, unknown>,
  path: string,
  to: Operation[],
): void {
  for (const key of Object.keys(old))
    if (!Object.hasOwn(now, key)) to.push({ op: 'remove', path: `${path}/${escaped(key)}` });
  for (const [key, value] of Object.entries(now)) {
    if (Object.hasOwn(old, key)) patchValue(old[key], value, `${path}/${escaped(key)}`, to);
    else to.push({ op: 'add', path: `${path}/${escaped(key)}`, value });
  }
}

function patchList(old: readonly unknown[], now: readonly unknown[], path: string, to: Operation[]): void {
  const [before, after] = [old, now].map((list) => list.map((item) => JSON.stringify(item)));
  if (!before || !after) return;
  const { start, end } = equalEnds(before, after);
  const [oldMiddle, newMiddle] = [before.length - start - end, after.length - start - end];
  if (oldMiddle * newMiddle > mostListWork) {
    to.push({ op: 'replace', path, value: now });
    return;
  }
  const isKept = commonItems(
    before.slice(start, before.length - end),
    after.slice(start, after.length - end),
  );
  // Gone through from the front; places count as the list is at that moment.
  let [at, oldAt, newAt] = [start, start, start];
  while (oldAt < start + oldMiddle || newAt < start + newMiddle) {
    const isOldKept = oldAt < start + oldMiddle && isKept.old.has(oldAt - start);
    const isNewKept = newAt < start + newMiddle && isKept.now.has(newAt - start);
    if (isOldKept && isNewKept) {
      at++;
      oldAt++;
      newAt++;
    } else if (oldAt < start + oldMiddle && !isOldKept && newAt < start + newMiddle && !isNewKept) {
      patchValue(old[oldAt++], now[newAt++], `${path}/${at++}`, to);
    } else if (oldAt < start + oldMiddle && !isOldKept) {
      to.push({ op: 'remove', path: `${path}/${at}` });
      oldAt++;
    } else {
      to.push({ op: 'add', path: `${path}/${at++}`, value: now[newAt++] });
    }
  }
}

/** Places of a longest common subsequence in either list. */
function commonItems(old: readonly string[], now: readonly string[]): { old: Set<number>; now: Set<number> } {
  const width = now.length + 1;
  const lengths = new Int32Array((old.length + 1) * width);
  for (let a = old.length - 1; a >= 0; a--)
    for (let b = now.length - 1; b >= 0; b--)
      lengths[a * width + b] =
        old[a] === now[b]
          ? (lengths[(a + 1) * width + b + 1] ?? 0) + 1
          : Math.max(lengths[(a + 1) * width + b] ?? 0, lengths[a * width + b + 1] ?? 0);
  const kept = { old: new Set<number>(), now: new Set<number>() };
  for (let a = 0, b = 0; a < old.length && b < now.length;) {
    if (old[a] === now[b]) {
      kept.old.add(a++);
      kept.now.add(b++);
    } else if ((lengths[(a + 1) * width + b] ?? 0) >= (lengths[a * width + b + 1] ?? 0)) a++;
    else b++;
  }
  return kept;
}

/** JSON Pointer, RFC 6901, section 3. */
function escaped(key: string): string {
  return key.replaceAll('~', '~0').replaceAll('/', '~1');
}
