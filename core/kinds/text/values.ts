import { Mentions, mayName, type Mention } from '../mentions.ts';
import { ReadError } from '../reading.ts';
import { flattened, isScalar, type KeyedValue } from '../keyed-values.ts';
import { hashOfData } from '../data/data-hash.ts';
import { parseJson, parseJsonExactly } from '../parse-json.ts';
import { rowsOf } from './table.ts';
import { parsedXml } from './xml-parser.ts';
import { yamlData } from './yaml-data.ts';

export interface TextValues {
  values: KeyedValue[];
  /** Of a table of strings, where it says so. */
  language: string | null;
}

/** The same without the values: large tables have more of them than memory holds. */
export interface ValuesSummary {
  count: number;
  language: string | null;
  /** A hash of the data, where order and spacing say nothing and it is not too large or too deep. */
  decoded: Uint8Array | null;
  /** Files that its values name. */
  mentions: readonly Mention[];
}

/** Longer texts are compared as they are written. */
const longestCanonical = 8_000_000;

/** How many values a structured text has; null where its format has none. @throws ReadError that says where it breaks */
export async function summaryOfValues(text: string, format: string): Promise<ValuesSummary | null> {
  if (format === 'json') {
    const { root, isExact } = parseJsonExactly(text);
    const isLong = text.length > longestCanonical;
    return {
      ...countOf(root, !isLong),
      language: null,
      decoded: isLong || !isExact ? null : hashOfData(root),
    };
  }
  const hasMentions = text.length <= longestCanonical;
  if (format === 'csv')
    return { ...countOfRows(await rowsOf(text), hasMentions), language: null, decoded: null };
  const found = await valuesOf(text, format);
  if (!found) return null;
  const mentions = hasSayings.has(format) || !hasMentions ? [] : mentionsIn(found.values);
  return { count: found.values.length, language: found.language, decoded: null, mentions };
}

/** Values of these are what people read, and name no files. */
const hasSayings: ReadonlySet<string> = new Set(['po', 'strings']);

function mentionsIn(values: Iterable<KeyedValue>): Mention[] {
  const mentions = new Mentions();
  for (const { key, value } of values) mentions.addValue(value, key);
  return mentions.list();
}

/** How many values data have, and the files that they name. */
function countOf(root: unknown, hasMentions: boolean): Pick<ValuesSummary, 'count' | 'mentions'> {
  const mentions = new Mentions();
  let count = 0;
  const look = (value: unknown, key: string): void => {
    count++;
    if (hasMentions && typeof value === 'string') mentions.addValue(value, key);
  };
  if (isScalar(root)) look(root, '');
  // Only what holds others goes onto the stack: most values do not. A list's items stand under the list's key.
  const stack: { key: string; holder: object }[] = isScalar(root)
    ? []
    : [{ key: '', holder: root as object }];
  for (let top = stack.pop(); top !== undefined; top = stack.pop()) {
    const { key, holder } = top;
    if (Array.isArray(holder)) {
      for (const value of holder as unknown[])
        if (isScalar(value)) look(value, key);
        else stack.push({ key, holder: value as object });
      continue;
    }
    for (const name of Object.keys(holder)) {
      const value = (holder as Record<string, unknown>)[name];
      if (isScalar(value)) look(value, name);
      else stack.push({ key: name, holder: value as object });
    }
  }
  return { count, mentions: mentions.list() };
}

/** Values of a structured text by its format; null where it has none. @throws ReadError that says where it breaks */
export async function valuesOf(text: string, format: string): Promise<TextValues | null> {
  switch (format) {
    case 'json': {
      return { values: flattened(parseJson(text)), language: null };
    }
    case 'yaml':
      return { values: flattened(await yamlData(text)), language: null };
    case 'xml':
      return { values: await xmlValues(text), language: null };
    case 'csv':
      return { values: await rowValues(text), language: null };
    case 'ini':
      return { values: sectionValues(text), language: null };
    case 'mtl':
      return { values: materialValues(text), language: null };
    case 'strings':
      return { values: pairValues(text), language: null };
    case 'po':
      return poValues(text);
    default:
      return null;
  }
}

async function xmlValues(text: string): Promise<KeyedValue[]> {
  const parsed = await parsedXml(text, { attributeNamePrefix: '@' });
  return flattened(parsed).filter(({ value }) => value.trim() !== '');
}

/** The values of a table's rows: all but the first column, which names the row. */
async function rowValues(text: string): Promise<KeyedValue[]> {
  const values: KeyedValue[] = [];
  const [columns = [], ...rows] = await rowsOf(text);
  for (const [number, row] of rows.entries())
    for (let column = columns.length === 1 ? 0 : 1; column < row.length; column++)
      values.push({ key: keyOfCell(columns, row, number, column), value: row[column] ?? '' });
  return values;
}

/** The same without the values: their keys are made only of those that name something. */
function countOfRows(
  [columns = [], ...rows]: readonly string[][],
  hasMentions: boolean,
): Pick<ValuesSummary, 'count' | 'mentions'> {
  const mentions = new Mentions();
  let count = 0;
  for (const [number, row] of rows.entries())
    for (let column = columns.length === 1 ? 0 : 1; column < row.length; column++) {
      const value = row[column] ?? '';
      count++;
      if (hasMentions && mayName(value)) mentions.addValue(value, keyOfCell(columns, row, number, column));
    }
  return { count, mentions: mentions.list() };
}

function keyOfCell(
  columns: readonly string[],
  row: readonly string[],
  number: number,
  column: number,
): string {
  return `${columns.length > 1 ? (row[0] ?? '') : number + 1}.${columns[column] ?? column + 1}`;
}

/** `[section]`, then `name = value`; lines that begin with ; or # are remarks. */
function sectionValues(text: string): KeyedValue[] {
  const values: KeyedValue[] = [];
  let section = '';
  for (const line of text.split(/\r\n|\r|\n/)) {
    const head = /^\s*\[([^\]]+)\]/.exec(line);
    if (head) section = `${head[1] ?? ''}.`;
    const pair = /^\s*([^;#[\s][^=]*?)\s*=\s*(.*?)\s*$/.exec(line);
    if (pair) values.push({ key: `${section}${pair[1] ?? ''}`, value: pair[2] ?? '' });
  }
  return values;
}

/** Materials of OBJ: `newmtl name`, then `key value`, where options of textures stand before the file. */
function materialValues(text: string): KeyedValue[] {
  const values: KeyedValue[] = [];
  let material = '';
  for (const line of text.split(/\r\n|\r|\n/)) {
    const [, key = '', value = ''] = /^\s*([A-Za-z]\w*)\s+(.*?)\s*$/.exec(line) ?? [];
    if (key === 'newmtl') material = value;
    else if (key !== '')
      values.push({
        key: `${material}.${key}`,
        value: value.replace(/^(?:-\w+(?:\s+(?:on|off|-?[\d.]+\S*))*\s+)+/, ''),
      });
  }
  return values;
}

/** `name = value`, `name: value` or `"name" = "value";`, one to a line. */
function pairValues(text: string): KeyedValue[] {
  const values: KeyedValue[] = [];
  for (const line of text.split(/\r\n|\r|\n/)) {
    const pair = /^\s*"?((?:[^"=:#!\\]|\\.)+?)"?\s*[=:]\s*(?:"((?:[^"\\]|\\.)*)"\s*;?|(.*?))\s*$/.exec(line);
    if (pair) values.push({ key: (pair[1] ?? '').trim(), value: pair[2] ?? pair[3] ?? '' });
  }
  return values;
}

async function poValues(text: string): Promise<TextValues> {
  const { po } = await import('./structured.ts');
  let parsed: ReturnType<typeof po.parse>;
  try {
    parsed = po.parse(text);
  } catch (error) {
    throw new ReadError(
      `this is no valid PO file: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  const values: KeyedValue[] = [];
  for (const [context, messages] of Object.entries(parsed.translations))
    for (const { msgid, msgstr } of Object.values(messages)) {
      if (msgid === '') continue;
      msgstr.forEach((value, plural) =>
        values.push({
          key: `${context === '' ? '' : `${context}.`}${msgid}${plural > 0 ? ` [${plural}]` : ''}`,
          value,
        }),
      );
    }
  const headers = parsed.headers as Record<string, string | undefined>;
  return { values, language: headers.Language ?? headers.language ?? null };
}
