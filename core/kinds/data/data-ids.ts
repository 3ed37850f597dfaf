import { isScalar, scalarText } from '../keyed-values.ts';
import { decimalOf, LongNumber } from '../parse-json.ts';

/** Numbers for data: equal data have the same one, whatever the order of their keys. Each is looked at once. */
export class DataIds {
  private readonly known = new Map<string, number>();
  private readonly ofObjects = new WeakMap<object, { id: number; values: number }>();

  of(value: unknown): number {
    return isScalar(value) ? this.number(scalarKey(value)) : this.look(value as object).id;
  }

  /** How many values are in it: a value by itself is one, and an empty list too. */
  values(value: unknown): number {
    return isScalar(value) ? 1 : Math.max(1, this.look(value as object).values);
  }

  private look(holder: object): { id: number; values: number } {
    const known = this.ofObjects.get(holder);
    if (known) return known;
    let [key, values] = ['', 0];
    if (Array.isArray(holder)) {
      const ids = (holder as unknown[]).map((item) => {
        values += this.values(item);
        return this.of(item);
      });
      key = `[${ids.join(' ')}`;
    } else {
      const pairs = Object.entries(holder as Record<string, unknown>).map(([name, value]) => {
        values += this.values(value);
        return `${this.number(`:${name}`)} ${this.of(value)}`;
      });
      key = `{${pairs.sort().join(',')}`;
    }
    const found = { id: this.number(key), values };
    this.ofObjects.set(holder, found);
    return found;
  }

  private number(key: string): number {
    const known = this.known.get(key);
    if (known !== undefined) return known;
    this.known.set(key, this.known.size);
    return this.known.size - 1;
  }
}

/** The value with its type: 1 and "1" are not the same. */
function scalarKey(value: unknown): string {
  if (value instanceof LongNumber || typeof value === 'number' || typeof value === 'bigint')
    return `n${decimalOf(value instanceof LongNumber ? value.value : String(value))}`;
  return typeof value === 'string' ? `s${value}` : `v${scalarText(value)}`;
}
