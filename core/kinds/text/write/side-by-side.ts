import { plural } from '../../../figures.ts';
import { ReadError, type ReadRequest } from '../../reading.ts';
import type { Proof, Written } from '../../writing.ts';
import { decodeText } from '../decode.ts';
import { languageOfPath } from '../language.ts';
import { papa } from '../separated.ts';
import { valuesOf } from '../values.ts';

/** Texts of one language, by their keys; a key that stands more than once is told apart by its number. */
interface Column {
  label: string;
  values: ReadonlyMap<string, string>;
}

/**
 * Writes the same texts in several languages beside one another: a row to each key, in the order of the first language, then what
 * it does not have. As CSV (RFC 4180) with a column for each, or as a list in JSON with the values by language.
 * @param together the others, by paths from the first
 * @throws ReadError where one of them has no values or is not there
 */
export async function writeSideBySide(
  request: ReadRequest,
  format: string,
  as: 'json' | 'csv',
  together: readonly string[],
): Promise<Written> {
  const columns = [await columnOf(request.bytes, request.path, format)];
  for (const path of together) {
    const bytes = await request.resolve(path);
    if (!bytes) throw new ReadError(`${path.replace(/^(\.\.\/)+/, '')} is not there any more`);
    columns.push(await columnOf(bytes, path, format));
  }
  labelApart(columns);
  const keys = [...new Set(columns.flatMap(({ values }) => [...values.keys()]))];
  const text = as === 'csv' ? asCsv(keys, columns) : asJson(keys, columns);
  const bytes = new TextEncoder().encode(text);
  return {
    files: [{ ending: `.${as}`, bytes }],
    losses: [],
    notes: columns.flatMap(({ label, values }) =>
      values.size < keys.length ? [`${plural(keys.length - values.size, 'text')} not in ${label}`] : [],
    ),
    proof: proofOf(keys, columns, new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes), as),
  };
}

async function columnOf(bytes: Uint8Array, path: string, format: string): Promise<Column> {
  const found = await valuesOf(decodeText(bytes).text, format === 'sheet-table' ? 'csv' : format);
  if (!found) throw new ReadError('a plain text has no values: it can be taken out as it lay');
  const values = new Map<string, string>();
  const seen = new Map<string, number>();
  for (const { key, value } of found.values) {
    const number = (seen.get(key) ?? 0) + 1;
    seen.set(key, number);
    values.set(number === 1 ? key : `${key} #${number}`, value);
  }
  return { label: found.language ?? languageOfPath(path) ?? stemOf(path), values };
}

function stemOf(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '');
}

function labelApart(columns: Column[]): void {
  const taken = new Set<string>();
  for (const column of columns) {
    let label = column.label;
    for (let number = 2; taken.has(label); number++) label = `${column.label} (${number})`;
    taken.add((column.label = label));
  }
}

function asCsv(keys: readonly string[], columns: readonly Column[]): string {
  const rows = keys.map((key) => [key, ...columns.map(({ values }) => values.get(key) ?? '')]);
  return `${papa.unparse([['key', ...columns.map(({ label }) => label)], ...rows], { newline: '\r\n' })}\r\n`;
}

function asJson(keys: readonly string[], columns: readonly Column[]): string {
  const rows = keys.map((key) => ({
    key,
    values: Object.fromEntries(
      columns.flatMap(({ label, values }) => {
        const value = values.get(key);
        return value === undefined ? [] : [[label, value]];
      }),
    ),
  }));
  return `${JSON.stringify(rows, null, 1)}\n`;
}

function proofOf(
  keys: readonly string[],
  columns: readonly Column[],
  text: string,
  as: 'json' | 'csv',
): Proof {
  const read = as === 'csv' ? readCsv(text) : readJson(text);
  if (read.length !== keys.length)
    return { verdict: 'differs', sentence: `It has ${read.length} keys instead of ${keys.length}.` };
  for (const [at, key] of keys.entries())
    for (const [place, { label, values }] of columns.entries())
      if (read[at]?.key !== key || (read[at].valueOf(label, place) ?? '') !== (values.get(key) ?? ''))
        return { verdict: 'differs', sentence: `The value of “${key}” in ${label} is another one.` };
  return { verdict: 'the same', sentence: '' };
}

interface ReadRow {
  key: string;
  valueOf: (label: string, place: number) => string | undefined;
}

function readCsv(text: string): ReadRow[] {
  const { data } = papa.parse<string[]>(text, { skipEmptyLines: false, delimiter: ',', newline: '\r\n' });
  return data.slice(1, -1).map(([key = '', ...values]) => ({ key, valueOf: (_, place) => values[place] }));
}

function readJson(text: string): ReadRow[] {
  const rows = JSON.parse(text) as { key: string; values: Record<string, string> }[];
  return rows.map(({ key, values }) => ({ key, valueOf: (label) => values[label] }));
}
