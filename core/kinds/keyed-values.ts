import type { ValueChange } from '../../contract/comparisons.ts';
import { LongNumber } from './parse-json.ts';

/** A value of a structured text. */
export interface KeyedValue {
  /** Where it stands: the keys that lead to it, with dots between them; rows of tables by their first column. */
  key: string;
  value: string;
}

/** What holds no others: also a number of too many digits for a double, which is an object. */
export function isScalar(value: unknown): boolean {
  return typeof value !== 'object' || value === null || value instanceof LongNumber;
}

export function scalarText(value: unknown): string {
  if (typeof value === 'string') return value;
  return value instanceof LongNumber ? value.value : (JSON.stringify(value) ?? '');
}

/** Values of data that are nested in one another, in their order. */
export function flattened(root: unknown): KeyedValue[] {
  const values: KeyedValue[] = [];
  // A stack of its own: data may be nested deeper than calls may.
  const stack: { key: string; value: unknown }[] = [{ key: '', value: root }];
  for (let top = stack.pop(); top; top = stack.pop()) {
    const { key, value } = top;
    if (isScalar(value)) {
      values.push({ key, value: scalarText(value) });
      continue;
    }
    const entries = Object.entries(value as Record<string, unknown>);
    for (let at = entries.length - 1; at >= 0; at--) {
      const [name, inner] = entries[at] ?? ['', null];
      stack.push({ key: key === '' ? name : `${key}.${name}`, value: inner });
    }
  }
  return values;
}

/** Values by key; of keys that stand more than once, by their place among these. */
export function compareValues(old: readonly KeyedValue[], now: readonly KeyedValue[]): ValueChange[] {
  const before = numbered(old);
  const after = numbered(now);
  const changes: ValueChange[] = [];
  for (const [key, value] of after) {
    const then = before.get(key);
    if (then === undefined) changes.push({ status: 'added', key, old: '', new: value });
    else if (then !== value) changes.push({ status: 'changed', key, old: then, new: value });
  }
  for (const [key, value] of before)
    if (!after.has(key)) changes.push({ status: 'gone', key, old: value, new: '' });
  return changes;
}

function numbered(values: readonly KeyedValue[]): Map<string, string> {
  const result = new Map<string, string>();
  const met = new Map<string, number>();
  for (const { key, value } of values) {
    const count = (met.get(key) ?? 0) + 1;
    met.set(key, count);
    result.set(count === 1 ? key : `${key} [${count}]`, value);
  }
  return result;
}
