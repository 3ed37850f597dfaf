import { byFormatId } from '../kinds/formats.ts';
import type { Lexicon } from '../names/lexicon.ts';
import { lexiconReason, type Terms } from './expand.ts';
import { termOf, type PathIndex } from './path-index.ts';
import { rangeFields, type Query, type RangeField } from './query.ts';

/** What lies at the paths, over spans of builds: for each path those from `spanAt[n]` to `spanAt[n + 1]`, oldest first. */
export interface StateTables {
  spanAt: Uint32Array;
  /** First and last build's place on the line of builds. */
  first: Uint32Array;
  last: Uint32Array;
  /** Place of the oldest build: nothing is new in it. */
  oldest: number;
  /** Id of the format. */
  format: Uint16Array;
  /** Figures by field; NaN where a content has none. Sizes are always there. */
  figures: Partial<Record<RangeField, Float64Array>>;
}

export interface Hit {
  /** Number of its path in the index. */
  number: number;
  /** Number of its span in the tables. */
  span: number;
}

export interface Found {
  /** Those that were asked for. */
  hits: Hit[];
  /** How many there are, as far as they were counted. */
  total: number;
  /** Whether the search stopped when it had enough, so that there may be more. */
  isCut: boolean;
}

export interface SearchOptions {
  offset?: number;
  limit: number;
  /** How many are counted at all. */
  most: number;
  /** What else a span has to be: what its text holds. */
  isWanted?: (span: number) => boolean;
}

/**
 * Goes through the paths that fit, in order.
 * @param terms of the query's words and roles
 * @param sequence place of a build on the line of builds; null for all, where each path counts as it was last
 */
export function search(
  index: PathIndex,
  states: StateTables,
  query: Query,
  terms: Terms,
  sequence: number | null,
  { offset = 0, limit, most, isWanted }: SearchOptions,
): Found {
  const hits: Hit[] = [];
  let total = 0;
  let isCut = false;
  eachHit(index, states, query, terms, sequence, isWanted, (number, span) => {
    if (total >= most) {
      isCut = true;
      return false;
    }
    if (total >= offset && hits.length < limit) hits.push({ number, span });
    total++;
    return true;
  });
  return { hits, total, isCut };
}

/** Calls for each path that fits, in order, until the answer is no. */
export function eachHit(
  index: PathIndex,
  states: StateTables,
  query: Query,
  { wanted, excluded }: Terms,
  sequence: number | null,
  isWanted: ((span: number) => boolean) | undefined,
  visit: (number: number, span: number) => boolean,
): void {
  const fits = filterOf(states, query);
  const isChange = changeFilter(states, query, sequence);
  const endings = query.choices
    .filter(({ field }) => field === 'ext')
    .map(({ values, isExcluded }) => ({
      isExcluded,
      values: values.map((value) => encoder.encode(`.${value}`)),
    }));
  // One that must be there is found by the lists, as a word is.
  const terms = [...wanted];
  for (const { field, values, isExcluded } of query.choices)
    if (field === 'ext' && !isExcluded) terms.push(values.flatMap((value) => termOf(`.${value}`)));
  index.find(terms, excluded, (number) => {
    const span = spanOf(states, number, sequence);
    if (span < 0 || !fits(span) || !isChange(number, span)) return true;
    for (const { values, isExcluded } of endings)
      if (values.some((ending) => index.endsWith(number, ending)) === isExcluded) return true;
    if (isWanted && !isWanted(span)) return true;
    return visit(number, span);
  });
}

/** Whether a build has at a path what the build before had not, or had otherwise. */
export function changeOf(
  { spanAt, first, last, oldest }: StateTables,
  number: number,
  span: number,
  sequence: number,
): 'new' | 'changed' | null {
  if (sequence <= oldest || first[span] !== sequence) return null;
  return span > (spanAt[number] ?? 0) && last[span - 1] === sequence - 1 ? 'changed' : 'new';
}

function changeFilter(
  states: StateTables,
  { choices }: Query,
  sequence: number | null,
): (number: number, span: number) => boolean {
  const asked = choices.filter(({ field }) => field === 'change');
  if (asked.length === 0) return () => true;
  return (number, span) => {
    // Of all builds it is asked whether it came new, or changed, into the build in which it is as it was last.
    const change = changeOf(states, number, span, sequence ?? states.first[span] ?? 0);
    return asked.every(({ values, isExcluded }) => values.includes(change ?? '') !== isExcluded);
  };
}

const encoder = new TextEncoder();

/** Number of a path's span in a build, or of its last one; -1 where it has none. */
export function spanOf(
  { spanAt, first, last }: StateTables,
  number: number,
  sequence: number | null,
): number {
  const end = spanAt[number + 1] ?? 0;
  const begin = spanAt[number] ?? 0;
  if (sequence === null) return end > begin ? end - 1 : -1;
  for (let span = begin; span < end; span++)
    if ((first[span] ?? 0) <= sequence && (last[span] ?? 0) >= sequence) return span;
  return -1;
}

function filterOf(states: StateTables, { ranges, choices }: Query): (span: number) => boolean {
  const tests: ((span: number) => boolean)[] = [];
  for (const { field, values, isExcluded } of choices) {
    if (field !== 'kind') continue;
    const isWanted = byFormatId(({ kind }) => values.includes(kind) !== isExcluded);
    tests.push((span) => isWanted[states.format[span] ?? 0] ?? false);
  }
  for (const { field, low, high, isExcluded } of ranges) {
    const figures = states.figures[field];
    tests.push((span) => {
      const figure = figures?.[span] ?? NaN;
      // What has no such figure is neither in the range nor out of it.
      return Number.isNaN(figure) ? false : (figure >= low && figure <= high) !== isExcluded;
    });
  }
  return (span) => tests.every((test) => test(span));
}

/** Why a path was found, in a sentence of parts. */
export function whyFound(
  query: Query,
  path: string,
  figureOf: (field: RangeField) => number | undefined,
  lexicon: Lexicon,
): string {
  const folded = path.toLowerCase();
  const parts = query.words
    .filter(({ isExcluded }) => !isExcluded)
    .map(({ text }) => {
      const meant = lexiconReason(path, text, lexicon);
      if (meant !== null) return meant;
      const at = folded.lastIndexOf(text);
      const isInName = at >= folded.lastIndexOf('/');
      return `“${text}” in its ${isInName ? 'name' : 'folder'}`;
    });
  for (const { field, isExcluded } of query.ranges) {
    const figure = figureOf(field);
    if (!isExcluded && figure !== undefined && !Number.isNaN(figure))
      parts.push(`${Number(figure.toFixed(2)).toLocaleString('en')} ${rangeFields[field]}`);
  }
  for (const { role, values, isExcluded } of query.roles)
    if (!isExcluded) parts.push(`${role} ${values.join(' or ')}`);
  for (const { text, isExcluded } of query.contents) if (!isExcluded) parts.push(`“${text}” in its text`);
  return parts.join(', ');
}
