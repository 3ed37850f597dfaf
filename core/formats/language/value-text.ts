import { countOf, isNumbers, Struct, type Value } from './values.ts';

/** A value in a few words, for people. */
export function valueText(value: Value): string {
  if (value === null) return 'not there';
  if (value instanceof Struct) return '';
  if (value instanceof Uint8Array && value.length <= 16 && value.every((byte) => byte >= 32 && byte < 127))
    return `“${String.fromCharCode(...value)}”`;
  if (isNumbers(value)) {
    const first = Array.from({ length: Math.min(8, value.length) }, (_, at) => String(value[at]));
    return `${value.length.toLocaleString('en')} numbers${value.length > 0 ? `: ${first.join(' ')}${value.length > 8 ? ' …' : ''}` : ''}`;
  }
  if (typeof value === 'object') return `${(countOf(value) ?? 0).toLocaleString('en')} of it`;
  return typeof value === 'string' ? `“${value.slice(0, 200)}”` : String(value);
}
