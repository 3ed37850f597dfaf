import { kindSchema } from '../../contract/kinds.ts';

/** A part of a name that has to be there, or must not be. */
export interface Word {
  /** In lower case. */
  text: string;
  isExcluded: boolean;
}

/** A figure that has to lie between two others, both included. */
export interface Range {
  field: RangeField;
  low: number;
  high: number;
  isExcluded: boolean;
}

/** One of several that it has to be. */
export interface Choice {
  field: 'kind' | 'ext';
  values: string[];
  isExcluded: boolean;
}

export interface Query {
  words: Word[];
  ranges: Range[];
  choices: Choice[];
}

/** What a query says wrongly, and where. */
export class QueryError extends Error {
  override readonly name = 'QueryError';
  /** Place of the first letter that does not fit, and how many. */
  readonly at: number;
  readonly length: number;

  constructor(message: string, at: number, length: number) {
    super(`${message} (at letter ${at + 1})`);
    this.at = at;
    this.length = length;
  }
}

/** Figures of facts that a query may ask for, with what they are called in a sentence. */
export const rangeFields = {
  size: 'bytes',
  triangles: 'triangles',
  vertices: 'vertices',
  bones: 'bones',
  width: 'pixels wide',
  height: 'pixels high',
  seconds: 'seconds long',
  placements: 'placements',
  lines: 'lines',
  values: 'values',
  glyphs: 'glyphs',
} as const;
export type RangeField = keyof typeof rangeFields;

const kinds: readonly string[] = kindSchema.options;
const factors: Readonly<Record<string, number>> = {
  '': 1,
  k: 1e3,
  kb: 1e3,
  m: 1e6,
  mb: 1e6,
  g: 1e9,
  gb: 1e9,
};

/**
 * Reads a query: words in any order, which are parts of paths; "words with spaces"; -word for what must not be there;
 * kind:model,picture and ext:glb; size:>1MB, triangles:1000..5000, seconds:<2.
 * @throws QueryError
 */
export function parseQuery(text: string): Query {
  const query: Query = { words: [], ranges: [], choices: [] };
  for (let at = 0; at < text.length;) {
    if (/\s/.test(text[at] ?? '')) {
      at++;
      continue;
    }
    at = readTerm(text, at, query);
  }
  return query;
}

function readTerm(text: string, begin: number, query: Query): number {
  let at = begin;
  const isExcluded = text[at] === '-' && /\S/.test(text[at + 1] ?? '');
  if (isExcluded) at++;
  if (text[at] === '"') {
    const end = text.indexOf('"', at + 1);
    if (end < 0) throw new QueryError('The quotation mark is not closed', at, text.length - at);
    const words = text.slice(at + 1, end).toLowerCase();
    if (words !== '') query.words.push({ text: words, isExcluded });
    return end + 1;
  }
  const [term = ''] = /^\S+/.exec(text.slice(at)) ?? [];
  const [, field = '', value = ''] = /^([a-z]+):(.*)$/i.exec(term) ?? [];
  if (field === '') query.words.push({ text: term.toLowerCase(), isExcluded });
  else readField(field.toLowerCase(), value, at, isExcluded, query);
  return at + term.length;
}

function readField(field: string, value: string, at: number, isExcluded: boolean, query: Query): void {
  const valueAt = at + field.length + 1;
  if (field === 'kind' || field === 'ext') {
    const values = value.toLowerCase().split(',').map((part) => part.replace(/^\./, '')).filter(Boolean);
    if (values.length === 0) throw new QueryError(`${field}: needs a value`, at, field.length + 1);
    const wrong = field === 'kind' ? values.find((part) => !kinds.includes(part)) : undefined;
    if (wrong !== undefined) throw new QueryError(`“${wrong}” is no kind: there are ${kinds.join(', ')}`, valueAt + value.toLowerCase().indexOf(wrong), wrong.length);
    query.choices.push({ field, values, isExcluded });
    return;
  }
  if (!Object.hasOwn(rangeFields, field))
    throw new QueryError(`“${field}:” is nothing to search by: there are kind, ext, ${Object.keys(rangeFields).join(', ')}`, at, field.length);
  query.ranges.push({ field: field as RangeField, ...readRange(value, valueAt), isExcluded });
} // prettier-ignore

/** `>5`, `>=5`, `<5`, `<=5`, `5..9`, `5..`, `..9` or `5`; of sizes with k, MB and the like. */
function readRange(value: string, at: number): { low: number; high: number } {
  const number = (text: string): number => {
    const [, digits, unit = ''] = /^(\d+(?:\.\d+)?)([a-z]*)$/i.exec(text) ?? [];
    const factor = factors[unit.toLowerCase()];
    if (digits === undefined || factor === undefined)
      throw new QueryError(`“${text}” is no number; 12, 1.5, 300k, 2MB, >5, <5 and 5..9 are understood`, at, Math.max(1, value.length));
    return Number(digits) * factor;
  };
  const [, sign, rest = ''] = /^(>=|<=|>|<)(.*)$/.exec(value) ?? [];
  if (sign !== undefined) {
    const bound = number(rest);
    if (sign === '>=') return { low: bound, high: Infinity };
    if (sign === '<=') return { low: -Infinity, high: bound };
    return sign === '>' ? { low: next(bound), high: Infinity } : { low: -Infinity, high: -next(-bound) };
  }
  const [low, high, ...more] = value.split('..');
  if (high === undefined) {
    const same = number(value);
    return { low: same, high: same };
  }
  if (more.length > 0 || (low === '' && high === '')) throw new QueryError('A range has two ends, such as 5..9', at, value.length);
  const range = { low: low ? number(low) : -Infinity, high: high ? number(high) : Infinity };
  if (range.low > range.high) throw new QueryError('The lower end of a range comes first', at, value.length);
  return range;
} // prettier-ignore

/** The least number above, as far as figures of facts go. */
function next(value: number): number {
  return value + Math.max(1e-9, Math.abs(value) * 1e-12);
}
