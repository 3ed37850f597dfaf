/** By which column rows are in order. */
export interface RowOrder {
  column: number;
  isDown: boolean;
}

/**
 * Rows that have all words in any of their cells, in an order. Numbers go by size, and before words; what is empty stands last.
 * @returns places of rows
 */
export function tableRows(
  rows: readonly (readonly string[])[],
  words: string,
  order: RowOrder | null,
): number[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found: number[] = [];
  rows.forEach((row, at) => {
    const text = wanted.length > 0 ? row.join('\t').toLowerCase() : '';
    if (wanted.every((word) => text.includes(word))) found.push(at);
  });
  if (!order) return found;
  const keys = new Map(found.map((at) => [at, keyOf(rows[at]?.[order.column] ?? '')]));
  const compare = new Intl.Collator('en', { numeric: true }).compare;
  return found.sort((a, b) => {
    const [left, right] = [keys.get(a), keys.get(b)];
    if (!left || !right || left.sort !== right.sort) {
      // What is empty is last either way.
      const by = (left?.sort ?? 0) - (right?.sort ?? 0);
      return left?.sort === empty || right?.sort === empty || !order.isDown ? by : -by;
    }
    const by = left.sort === number ? left.value - right.value : compare(left.text, right.text);
    return (order.isDown ? -by : by) || a - b;
  });
}

const number = 0;
const word = 1;
const empty = 2;

function keyOf(cell: string): { sort: number; value: number; text: string } {
  const text = cell.trim();
  if (text === '') return { sort: empty, value: 0, text };
  const value = /^[-+]?(\d+([.,]\d+)?|[.,]\d+)(e[-+]?\d+)?\s*%?$/i.test(text)
    ? Number(text.replace(',', '.').replace(/\s*%$/, ''))
    : NaN;
  return Number.isNaN(value) ? { sort: word, value: 0, text } : { sort: number, value, text };
}
