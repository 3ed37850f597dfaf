import { isScalar, scalarText } from '../keyed-values.ts';
import { isObject } from './data-change.ts';

/** Names that fields have which tell items apart (common practice, no published source); the surest first. */
const usualNames = [
  'id',
  'uid',
  'guid',
  'uuid',
  'key',
  'name',
  'path',
  'file',
  'code',
  'slug',
  'label',
  'title',
];
/** So much of the shorter list must be in the longer one, by a field of such a name, and by another one. */
const [leastCommon, leastCommonOther] = [0.3, 0.6];

/**
 * The field that tells the items of two lists apart: every item has it, each with another value, and enough of them are in
 * both. Null where there is none.
 */
export function keyFieldOf(old: readonly unknown[], now: readonly unknown[]): string | null {
  const [first] = now;
  if (!isObject(first) || old.length === 0 || !old.every(isObject) || !now.every(isObject)) return null;
  const fields = Object.keys(first).filter((field) => keyValue(first, field) !== null);
  const rank = (field: string): number => {
    const name = field.replace(/^@/, '').toLowerCase();
    const at = usualNames.indexOf(name);
    return at >= 0 ? at : /(?:id|key|name)$/.test(name) ? usualNames.length : Infinity;
  };
  const usual = fields.filter((field) => rank(field) < Infinity).sort((a, b) => rank(a) - rank(b));
  return (
    usual.find((field) => commonShare(old, now, field) >= leastCommon) ??
    fields.slice(0, 1).find((field) => commonShare(old, now, field) >= leastCommonOther) ??
    null
  );
}

/** Share of the shorter list's values that the other one has too; 0 where a value is missing, or stands twice. */
export function commonShare(old: readonly unknown[], now: readonly unknown[], field: string): number {
  const [before, after] = [valuesOf(old, field), valuesOf(now, field)];
  if (!before || !after) return 0;
  const common = [...before].filter((value) => after.has(value)).length;
  return common / Math.max(1, Math.min(before.size, after.size));
}

function valuesOf(list: readonly unknown[], field: string): Set<string> | null {
  const values = new Set<string>();
  for (const item of list) {
    const value = keyValue(item, field);
    if (value === null || values.has(value)) return null;
    values.add(value);
  }
  return values;
}

/** What names an item; null where it has no such value. An element of XML with but a text is that text. */
export function keyValue(item: unknown, field: string): string | null {
  if (!isObject(item)) return null;
  const held = item[field];
  const value = Array.isArray(held) && held.length === 1 ? (held as unknown[])[0] : held;
  if (value === undefined || value === null || typeof value === 'boolean' || !isScalar(value)) return null;
  const text = scalarText(value);
  return text === '' || text.length > 200 ? null : text;
}
