import type { ListedAsset } from '../../../contract/assets.ts';
import type { Kind } from '../../../contract/kinds.ts';
import { byFormatId, formatWithId, formats } from '../../../core/kinds/formats.ts';
import type { Lexicon } from '../../../core/names/lexicon.ts';
import { termsOf } from '../../../core/search/expand.ts';
import { termOf } from '../../../core/search/path-index.ts';
import { rangeFields, type Query, type RangeField } from '../../../core/search/query.ts';
import { changeOf, eachHit, search, whyFound } from '../../../core/search/search.ts';
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

/** The first hits of a query in the order of their paths; it stops counting where there are more than `most`. */
export function findAssets(
  searchable: Searchable,
  builds: ChannelBuilds,
  lexicon: Lexicon,
  { query, sequence, offset, limit, most }: Omit<SearchRequest, 'order'>,
): FoundAssets {
  const { states } = searchable.tables;
  const terms = termsOf(query, lexicon);
  const { hits, total, isCut } = search(searchable.index, states, query, terms, sequence, {
    offset,
    limit,
    most,
  });
  const assets = hits.map(({ number, span }) =>
    foundAsset(searchable, builds, lexicon, query, sequence, number, span),
  );
  return { assets, total, isCut };
}

/** All hits of a query in an order: numbers of paths, and of their spans. */
export interface AllHits {
  numbers: Uint32Array;
  spans: Uint32Array;
}

/** Finds everything that a query asks for. A build of a million may answer with a million. */
export function findAll(
  searchable: Searchable,
  lexicon: Lexicon,
  texts: TextTables | null,
  { query, sequence, order }: Pick<SearchRequest, 'query' | 'sequence' | 'order'>,
): AllHits {
  const { index, tables } = searchable;
  const isWanted = contentFilter(searchable, query, texts);
  let count = 0;
  let numbers = new Uint32Array(1024);
  let spans = new Uint32Array(1024);
  eachHit(index, tables.states, query, termsOf(query, lexicon), sequence, isWanted, (number, span) => {
    if (count === numbers.length) {
      numbers = doubled(numbers);
      spans = doubled(spans);
    }
    numbers[count] = number;
    spans[count++] = span;
    return true;
  });
  const hits = { numbers: numbers.subarray(0, count), spans: spans.subarray(0, count) };
  if (order.by === 'path' && !order.isDescending) return hits;
  const places = sortedPlaces(searchable, hits.numbers, hits.spans, order);
  return {
    numbers: places.map((place) => hits.numbers[place] ?? 0),
    spans: places.map((place) => hits.spans[place] ?? 0),
  };
}

function doubled(numbers: Uint32Array<ArrayBuffer>): Uint32Array<ArrayBuffer> {
  const larger = new Uint32Array(numbers.length * 2);
  larger.set(numbers);
  return larger;
}

/** Some of all hits, as lists show them. */
export function pageOf(
  { numbers, spans }: AllHits,
  searchable: Searchable,
  builds: ChannelBuilds,
  lexicon: Lexicon,
  { query, sequence, offset, limit }: SearchRequest,
): FoundAssets {
  const assets: FoundAssets['assets'] = [];
  for (let at = offset; at < Math.min(numbers.length, offset + limit); at++)
    assets.push(foundAsset(searchable, builds, lexicon, query, sequence, numbers[at] ?? 0, spans[at] ?? 0));
  return { assets, total: numbers.length, isCut: false };
}

function foundAsset(
  searchable: Searchable,
  builds: ChannelBuilds,
  lexicon: Lexicon,
  query: Query,
  sequence: number | null,
  number: number,
  span: number,
): FoundAssets['assets'][number] {
  const listed = listedAsset(searchable, builds, number, span, sequence);
  const { figures } = searchable.tables.states;
  return { ...listed, why: whyFound(query, listed.path, (field) => figures[field]?.[span], lexicon) };
}

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
    return places.sort(
      (a, b) => sign * ((names[a] ?? '') < (names[b] ?? '') ? -1 : names[a] === names[b] ? 0 : 1) || a - b,
    );
  }
  const keys = Float64Array.from(spans, (span, place) => keyOf(tables.states, by, numbers[place] ?? 0, span));
  return places.sort((a, b) => {
    const [left = NaN, right = NaN] = [keys[a], keys[b]];
    if (Number.isNaN(left) || Number.isNaN(right))
      return Number(Number.isNaN(left)) - Number(Number.isNaN(right)) || a - b;
    return sign * (left - right) || a - b;
  });
}

function keyOf(
  states: Searchable['tables']['states'],
  by: Exclude<OrderBy, 'path' | 'name'>,
  number: number,
  span: number,
): number {
  if (by === 'kind') return kindOrder[states.format[span] ?? 0] ?? 0;
  if (by === 'first seen') return states.first[states.spanAt[number] ?? 0] ?? 0;
  return states.figures[by]?.[span] ?? NaN;
}

/** Formats of a kind stand together, as the table of formats has them. */
const kindOrder = byFormatId((format) => formats.findIndex(({ id }) => id === format.id));

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
  const kinds = byFormatId(({ kind }): Kind => kind);
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
  const format = formatWithId(states.format[span] ?? 0);
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
