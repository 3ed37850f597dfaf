import type { ListedAsset } from '../../contract/assets.ts';
import type { Kind } from '../../contract/kinds.ts';
import { formats } from '../../core/kinds/formats.ts';
import type { Lexicon } from '../../core/names/lexicon.ts';
import { termsOf } from '../../core/search/expand.ts';
import { termOf } from '../../core/search/path-index.ts';
import { rangeFields, type Query, type RangeField } from '../../core/search/query.ts';
import { changeOf, eachHit, search, whyFound } from '../../core/search/search.ts';
import type { ChannelBuilds, Searchable } from './channel-tables.ts';
import { hashAt, type TextTables } from './text-tables.ts';

export const orders = [
  'path',
  'name',
  'kind',
  'first seen',
  ...(Object.keys(rangeFields) as RangeField[]),
] as const;
export type OrderBy = (typeof orders)[number];

export interface Order {
  by: OrderBy;
  isDescending: boolean;
}

export const pathOrder: Order = { by: 'path', isDescending: false };

export interface SearchRequest {
  query: Query;
  /** Place of a build on the line of builds; null looks through all, each path as it was last. */
  sequence: number | null;
  offset: number;
  limit: number;
  /** Hits that are counted at all. */
  most: number;
  order: Order;
}

export interface FoundAssets {
  assets: (ListedAsset & { why: string })[];
  total: number;
  isCut: boolean;
}

/** The hits of a query from `offset` on, and how many there are. */
export function findAssets(
  searchable: Searchable,
  builds: ChannelBuilds,
  lexicon: Lexicon,
  texts: TextTables | null,
  { query, sequence, offset, limit, most, order }: SearchRequest,
): FoundAssets {
  const { index, tables } = searchable;
  const terms = termsOf(query, lexicon);
  const isWanted = contentFilter(searchable, query, texts);
  const row = (number: number, span: number): FoundAssets['assets'][number] => {
    const listed = listedAsset(searchable, builds, number, span, sequence);
    return { ...listed, why: whyFound(query, listed.path, (field) => tables.states.figures[field]?.[span], lexicon) };
  };
  if (order.by === 'path' && !order.isDescending) {
    const options = { offset, limit, most, ...(isWanted && { isWanted }) };
    const { hits, total, isCut } = search(index, tables.states, query, terms, sequence, options);
    return { assets: hits.map(({ number, span }) => row(number, span)), total, isCut };
  }
  // In another order all hits have to be known.
  const numbers: number[] = [];
  const spans: number[] = [];
  eachHit(index, tables.states, query, terms, sequence, isWanted, (number, span) => {
    numbers.push(number);
    spans.push(span);
    return true;
  });
  const places = sortedPlaces(searchable, numbers, spans, order).subarray(offset, offset + limit);
  return {
    assets: Array.from(places, (place) => row(numbers[place] ?? 0, spans[place] ?? 0)),
    total: numbers.length,
    isCut: false,
  };
} // prettier-ignore

/** Places in a list of hits, in an order; what has no such figure comes last. */
export function sortedPlaces(
  { index, tables }: Searchable,
  numbers: ArrayLike<number>,
  spans: ArrayLike<number>,
  { by, isDescending }: Order,
): Uint32Array {
  const places = Uint32Array.from({ length: numbers.length }, (_, place) => place);
  const sign = isDescending ? -1 : 1;
  if (by === 'path') return isDescending ? places.reverse() : places;
  if (by === 'name') {
    const names = Array.from(numbers, (number) => {
      const path = index.path(number);
      return path.slice(path.lastIndexOf('/') + 1).toLowerCase();
    });
    return places.sort((a, b) => sign * ((names[a] ?? '') < (names[b] ?? '') ? -1 : names[a] === names[b] ? 0 : 1) || a - b);
  }
  const keys = Float64Array.from(spans, (span, place) => keyOf(tables.states, by, numbers[place] ?? 0, span));
  return places.sort((a, b) => {
    const [left = NaN, right = NaN] = [keys[a], keys[b]];
    if (Number.isNaN(left) || Number.isNaN(right)) return Number(Number.isNaN(left)) - Number(Number.isNaN(right)) || a - b;
    return sign * (left - right) || a - b;
  });
} // prettier-ignore

function keyOf(
  states: Searchable['tables']['states'],
  by: Exclude<OrderBy, 'path' | 'name'>,
  number: number,
  span: number,
): number {
  if (by === 'kind') return states.format[span] ?? 0;
  if (by === 'first seen') return states.first[states.spanAt[number] ?? 0] ?? 0;
  return states.figures[by]?.[span] ?? NaN;
}

function contentFilter(
  { tables }: Searchable,
  { contents }: Query,
  texts: TextTables | null,
): ((span: number) => boolean) | undefined {
  if (contents.length === 0) return undefined;
  const sets = contents.map(({ text, isExcluded }) => ({
    isExcluded,
    holding: texts?.holding(termOf(text)) ?? new Set<string>(),
  }));
  const kinds = formats.map(({ kind }): Kind => kind);
  return (span) => {
    const kind = kinds[tables.states.format[span] ?? 0];
    if (kind !== 'text' && kind !== 'map') return false;
    const hash = hashAt(tables.hashes, span);
    return sets.every(({ isExcluded, holding }) => holding.has(hash) !== isExcluded);
  };
}

/** A path of a build as lists show it. */
export function listedAsset(
  { index, tables }: Searchable,
  builds: ChannelBuilds,
  number: number,
  span: number,
  sequence: number | null,
): ListedAsset {
  const { states, hashes, previews } = tables;
  const format = formats[states.format[span] ?? 0] ?? formats[0];
  const size = states.figures.size?.[span] ?? NaN;
  const hash = hashAt(hashes, span);
  const figures: ListedAsset['figures'] = {};
  for (const field of Object.keys(states.figures) as RangeField[]) {
    const figure = states.figures[field]?.[span] ?? NaN;
    if (field !== 'size' && !Number.isNaN(figure)) figures[field] = figure;
  }
  const place = sequence ?? Math.min(builds.newest, states.last[span] ?? 0);
  return {
    path: index.path(number),
    build: builds.labels.get(place) ?? '',
    kind: format.kind,
    format: format.name,
    size: Number.isNaN(size) ? null : size,
    hash: /^0+$/.test(hash) ? null : hash,
    hasPreview: previews[span] === 1,
    figures,
    firstSeen: builds.labels.get(states.first[states.spanAt[number] ?? 0] ?? 0) ?? '',
    change: changeOf(states, number, span, place),
  };
}
