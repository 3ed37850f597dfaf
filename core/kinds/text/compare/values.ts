import type { ValueChange } from '../../../../contract/comparisons.ts';
import type { TextValue } from '../values.ts';

/** Values by key; of keys that stand more than once, by their place among these. */
export function compareValues(old: readonly TextValue[], now: readonly TextValue[]): ValueChange[] {
  const before = numbered(old);
  const after = numbered(now);
  const changes: ValueChange[] = [];
  for (const [key, value] of after) {
    const then = before.get(key);
    if (then === undefined) changes.push({ status: 'added', key, old: '', new: value });
    else if (then !== value) changes.push({ status: 'changed', key, old: then, new: value });
  }
  for (const [key, value] of before) if (!after.has(key)) changes.push({ status: 'gone', key, old: value, new: '' });
  return changes;
} // prettier-ignore

function numbered(values: readonly TextValue[]): Map<string, string> {
  const result = new Map<string, string>();
  const met = new Map<string, number>();
  for (const { key, value } of values) {
    const count = (met.get(key) ?? 0) + 1;
    met.set(key, count);
    result.set(count === 1 ? key : `${key} [${count}]`, value);
  }
  return result;
}
