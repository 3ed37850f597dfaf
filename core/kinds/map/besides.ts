import { XMLParser } from 'fast-xml-parser';
import papa from 'papaparse';
import type { Figure, PlacementChange, ValueChange } from '../../../contract/comparisons.ts';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { plural } from '../../figures.ts';
import { named } from '../comparing.ts';
import { identify } from '../identify.ts';
import { compareValues, flattened, type KeyedValue } from '../keyed-values.ts';
import type { ReadRequest } from '../reading.ts';
import { parseJson } from '../parse-json.ts';
import { decodedTable } from './recipe-rows.ts';

const mostBytes = 32 * 1024 * 1024;

/** What a map says besides its placements and tiles, in an order of its own. */
export type Besides = readonly KeyedValue[];

/**
 * Values of a map's file that are read neither as placements nor as tiles: weather, properties, columns that no recipe
 * names. Numbers count to a ten-thousandth, and which row of a list says something does not.
 * @returns null where nobody looked: in what a sheet reads, in binary tables, and in files of more than 32 MiB
 */
export function besidesOf({
  bytes,
  path,
  recipe,
  bySheet,
}: Pick<ReadRequest, 'bytes' | 'path' | 'recipe' | 'bySheet'>): Besides | null {
  if (bySheet || recipe?.form === 'binary' || bytes.length > mostBytes) return null;
  const isTiles = ['tmx', 'tileset'].includes(identify(bytes.subarray(0, 1024), path).format);
  const isRead = recipe ? isReadBy(recipe) : isTiles ? isReadOfTiles : isReadOfTable;
  const values: KeyedValue[] = [];
  for (const { key, value } of flattened(dataOf(decodedTable(bytes), recipe))) {
    const parts = key.split('.').filter((part) => part !== '' && !/^\d+$/.test(part));
    if (!isRead(parts)) values.push({ key: parts.join('.'), value: plainNumber(value) });
  }
  return values.sort((a, b) => (a.key === b.key ? order(a.value, b.value) : order(a.key, b.key)));
}

/** The table could be read already: these throw nothing. */
function dataOf(text: string, recipe: PlacementRecipe | undefined): unknown {
  const form = recipe?.form ?? (/^\s*[{[]/.test(text) ? 'json' : 'xml');
  if (form === 'json') return parseJson(text);
  if (form === 'csv')
    return papa.parse(text.trim(), { header: true, delimiter: recipe?.delimiter ?? '', skipEmptyLines: true })
      .data;
  // Entities of the document's own are not taken: they can grow without bounds.
  return new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '',
    processEntities: false,
    parseTagValue: false,
    parseAttributeValue: false,
  }).parse(text);
}

/** The same for a fingerprint; where nobody looked, all bytes of the file. */
export function besidesPiece(besides: Besides | null, bytes: Uint8Array): Uint8Array {
  return besides ? new TextEncoder().encode(`\nbesides\n${JSON.stringify(besides)}`) : bytes;
}

function order(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

function plainNumber(value: string): string {
  const number = value.trim() === '' ? NaN : Number(value);
  return Number.isFinite(number) ? String(Math.round(number * 1e4) / 1e4 || 0) : value;
}

type Judge = (parts: readonly string[]) => boolean;

const fieldsOfTable = new Set(['id', 'model', 'class', 'position', 'rotation', 'scale', 'name', 'locator']);
const isReadOfTable: Judge = ([first = '', second = '']) =>
  first === 'units' || (first === 'placements' && fieldsOfTable.has(second));

const fieldsOfObjects = new Set(['id', 'template', 'gid', 'class', 'type', 'name', 'x', 'y', 'rotation']);
/** Besides cells and things, what says by whom it was written and how it is packed. */
const isReadOfTiles: Judge = (parts) => {
  const last = parts.at(-1) ?? '';
  if (parts.some((part) => part === 'data' || part === 'chunk' || part === 'chunks')) return true;
  if (/version$|^next\w+id$|^compression|^encoding$/.test(last)) return true;
  const inside = parts.at(-2) ?? '';
  return (inside === 'object' || inside === 'objects') && fieldsOfObjects.has(last);
};

function isReadBy({
  model,
  id,
  label,
  class: group,
  locator,
  position,
  scale,
  rotation,
}: PlacementRecipe): Judge {
  const fields = [model, id, label, group, locator, ...position, ...scale, ...rotation.fields]
    .filter((selector) => selector !== '' && !selector.startsWith('='))
    .map((selector) => `.${selector.replaceAll('/', '.').replaceAll('@', '')}.`);
  return (parts) => {
    const place = `.${parts.join('.')}.`;
    return fields.some((field) => place.includes(field));
  };
}

/**
 * What differs of it. Null on either side: that nobody looked.
 * @param hasOtherRows whether placements came or went: what their rows say besides came and went with them
 */
export function compareBesides(
  old: Besides | null,
  now: Besides | null,
  hasOtherRows: boolean,
): { sentences: string[]; figures: Figure[] } {
  if (!old || !now) return { sentences: ['what stands beside the placements was not compared'], figures: [] };
  const changes = hasOtherRows ? compareValues(...withoutRows(old, now)) : compareValues(old, now);
  const [first] = changes;
  if (!first) return { sentences: [], figures: [] };
  return {
    sentences: [
      changes.length === 1
        ? describeValue(first)
        : `${plural(changes.length, 'value')} beside them otherwise, ${describeValue(first)}`,
    ],
    figures: changes
      .slice(0, 12)
      .map(({ key, old: before, new: after }) => ({ name: key, old: before, new: after })),
  };
}

/** Whether placements came or went. */
export function hasOtherRows(changes: readonly PlacementChange[]): boolean {
  return changes.some(({ status }) => status === 'added' || status === 'gone');
}

/** What stands but once in either file is of the map as a whole. */
function withoutRows(...sides: [Besides, Besides]): [KeyedValue[], KeyedValue[]] {
  const isRepeated = (values: Besides, at: number): boolean =>
    values[at]?.key === values[at - 1]?.key || values[at]?.key === values[at + 1]?.key;
  const repeated = new Set(
    sides.flatMap((values) => values.filter((_, at) => isRepeated(values, at)).map(({ key }) => key)),
  );
  const [old, now] = sides.map((values) => values.filter(({ key }) => !repeated.has(key)));
  return [old ?? [], now ?? []];
}

function describeValue({ status, key, old, new: now }: ValueChange): string {
  return status === 'changed'
    ? `${named(key)} ${old} → ${now}`
    : `${named(key)} ${status === 'added' ? `new: ${now}` : 'gone'}`;
}
