import { XMLParser, XMLValidator } from 'fast-xml-parser';
import papa from 'papaparse';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { ReadError } from '../reading.ts';

/** A row of a placement table: what a selector finds in it, a list where it stands for several numbers. */
export type Row = (selector: string) => unknown;

/** The rows of a table, as its recipe finds them. @throws ReadError where there are none to be found */
export function rowsOf(bytes: Uint8Array, recipe: PlacementRecipe): Row[] {
  switch (recipe.form) {
    case 'json':
      return jsonRows(decodedTable(bytes), recipe.rows);
    case 'csv':
      return csvRows(decodedTable(bytes), recipe.delimiter);
    case 'xml':
      return xmlRows(decodedTable(bytes), recipe.rows);
    case 'binary':
      return binaryRows(bytes, recipe.binary);
  }
}

/** Text by its byte order mark, and UTF-8 without one. */
export function decodedTable(bytes: Uint8Array): string {
  const wide =
    bytes[0] === 0xff && bytes[1] === 0xfe
      ? 'utf-16le'
      : bytes[0] === 0xfe && bytes[1] === 0xff
        ? 'utf-16be'
        : 'utf-8';
  return new TextDecoder(wide).decode(bytes);
}

function jsonRows(text: string, place: string): Row[] {
  let root: unknown;
  try {
    root = JSON.parse(text);
  } catch (error) {
    throw new ReadError(`this is not valid JSON: ${error instanceof Error ? error.message : String(error)}`);
  }
  let found: unknown[] = [root];
  const keys = place === '' ? [] : place.split('.');
  for (const [at, key] of keys.entries()) {
    const next = found
      .flatMap((holder) => (key === '*' ? valuesOf(holder) : [member(holder, key)]))
      .filter((value) => value !== undefined);
    if (next.length === 0)
      throw new ReadError(`“${keys.slice(0, at + 1).join('.')}” is not there${keysText(found[0])}`);
    found = next;
  }
  // A list of rows, or the rows of an object by their names.
  const rows = found.flatMap((value) =>
    Array.isArray(value) ? (value as unknown[]) : keys.at(-1) === '*' ? [value] : valuesOf(value),
  );
  const objects = rows.filter((row) => typeof row === 'object' && row !== null);
  if (objects.length === 0)
    throw new ReadError(`“${place === '' ? 'the root' : place}” holds no rows${keysText(found[0])}`);
  return objects.map(
    (row): Row =>
      (selector) =>
        path(row, selector),
  );
}

function keysText(value: unknown): string {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return '';
  return `; there are ${Object.keys(value).slice(0, 12).join(', ')}`;
}

function valuesOf(value: unknown): unknown[] {
  if (Array.isArray(value)) return value;
  return typeof value === 'object' && value !== null ? Object.values(value) : [];
}

function member(holder: unknown, key: string): unknown {
  if (typeof holder !== 'object' || holder === null) return undefined;
  return Object.hasOwn(holder, key) ? (holder as Record<string, unknown>)[key] : undefined;
}

function path(row: unknown, selector: string): unknown {
  // A key with a dot of its own is tried as it is.
  let value = member(row, selector);
  if (value === undefined) {
    value = row;
    for (const key of selector.split('.')) value = member(value, key);
  }
  // {x, y, z} stands for a list.
  return typeof value === 'object' && value !== null && !Array.isArray(value) ? lettered(value) : value;
}

const letterings = ['xyzw', 'XYZW', 'rgba', 'pyr'];

function lettered(value: object): unknown {
  for (const letters of letterings) {
    const found = [...letters].flatMap((letter) =>
      Object.hasOwn(value, letter) ? [member(value, letter)] : [],
    );
    if (found.length >= 3) return found;
  }
  return value;
}

function csvRows(text: string, delimiter: string): Row[] {
  const { data } = papa.parse<string[]>(text.replace(/^\ufeff/, ''), { skipEmptyLines: 'greedy', delimiter });
  const [head = [], ...rows] = data;
  const columns = head.map((name) => name.trim());
  if (rows.length === 0) throw new ReadError('there is no row below the names of the columns');
  return rows.map((row): Row => (selector) => {
    const at = columns.indexOf(selector);
    if (at >= 0) return row[at];
    return /^\d+$/.test(selector) ? row[Number(selector) - 1] : undefined;
  });
}

function xmlRows(text: string, place: string): Row[] {
  const checked = XMLValidator.validate(text);
  if (checked !== true)
    throw new ReadError(
      `this is not valid XML: line ${checked.err.line}, column ${checked.err.col}: ${checked.err.msg}`,
    );
  // Entities of the document's own are not taken: they can grow without bounds.
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    processEntities: false,
    parseTagValue: false,
    parseAttributeValue: false,
  });
  let found: unknown[] = [parser.parse(text)];
  const names = place.split('/').filter((name) => name !== '');
  for (const [at, name] of names.entries()) {
    const next = found.flatMap((holder) => {
      const value = name === '*' ? valuesOf(holder).flat() : member(holder, name);
      return value === undefined ? [] : Array.isArray(value) ? (value as unknown[]) : [value];
    });
    if (next.length === 0)
      throw new ReadError(`there is no element ${names.slice(0, at + 1).join('/')}${keysText(found[0])}`);
    found = next;
  }
  return found.map((row): Row => (selector) => {
    let value: unknown = row;
    for (const name of selector.split('/')) {
      if (Array.isArray(value)) value = value[0];
      value = member(value, name);
    }
    // An element with attributes keeps its text apart; x, y and z as attributes stand for a list.
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
    const attributes = Object.fromEntries(
      Object.entries(value).map(([name, inner]) => [name.replace(/^@/, ''), inner as unknown]),
    );
    return '#text' in value ? value['#text'] : lettered(attributes);
  });
}

const sizes = { u8: 1, i8: 1, u16: 2, i16: 2, u32: 4, i32: 4, f32: 4, f64: 8 } as const;

function binaryRows(
  bytes: Uint8Array,
  { headBytes, rowBytes, count, isBigEndian }: PlacementRecipe['binary'],
): Row[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const fit = Math.floor(Math.max(0, bytes.length - headBytes) / rowBytes);
  let rows = fit;
  if (count !== '') {
    const said = field(view, bytes, 0, count, isBigEndian);
    if (typeof said !== 'number') throw new ReadError(`“${count}” is no number of rows`);
    if (said > fit)
      throw new ReadError(
        `it says that it has ${said.toLocaleString('en')} rows of ${rowBytes} bytes, and there is room for ${fit.toLocaleString('en')}`,
      );
    rows = said;
  }
  if (rows === 0) throw new ReadError(`there is no row of ${rowBytes} bytes after the first ${headBytes}`);
  return Array.from(
    { length: rows },
    (_, at): Row =>
      (selector) =>
        field(view, bytes, headBytes + at * rowBytes, selector, isBigEndian),
  );
}

/** `offset:type`, or `offset:type*count` for several in a row. */
function field(
  view: DataView,
  bytes: Uint8Array,
  begin: number,
  selector: string,
  isBigEndian: boolean,
): unknown {
  const [, place = '', type = '', length = '', times = '1'] =
    /^(\d+):([uif]\d+|text)(\d*)(?:\*(\d+))?$/.exec(selector.replace(/^(\d+):text/, '$1:text')) ?? [];
  if (place === '') return undefined;
  const at = begin + Number(place);
  if (type === 'text') {
    const raw = bytes.subarray(at, at + Number(length));
    const end = raw.indexOf(0);
    return new TextDecoder().decode(end < 0 ? raw : raw.subarray(0, end));
  }
  if (!Object.hasOwn(sizes, type)) return undefined;
  const size = sizes[type as keyof typeof sizes];
  if (at + size * Number(times) > bytes.length) return undefined;
  const numbers = Array.from({ length: Number(times) }, (_, step) =>
    numberAt(view, at + step * size, type as keyof typeof sizes, !isBigEndian),
  );
  return numbers.length === 1 ? numbers[0] : numbers;
}

function numberAt(view: DataView, at: number, type: keyof typeof sizes, isLittle: boolean): number {
  switch (type) {
    case 'u8':
      return view.getUint8(at);
    case 'i8':
      return view.getInt8(at);
    case 'u16':
      return view.getUint16(at, isLittle);
    case 'i16':
      return view.getInt16(at, isLittle);
    case 'u32':
      return view.getUint32(at, isLittle);
    case 'i32':
      return view.getInt32(at, isLittle);
    case 'f32':
      return view.getFloat32(at, isLittle);
    case 'f64':
      return view.getFloat64(at, isLittle);
  }
}
