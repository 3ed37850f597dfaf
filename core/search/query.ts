import type * as z from 'zod';
import type { figureFieldSchema } from '../../contract/assets.ts';
import { kindSchema } from '../../contract/kinds.ts';
import type { NameRole } from '../../contract/names.ts';

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
  field: 'kind' | 'ext' | 'change';
  values: string[];
  isExcluded: boolean;
}

/** What a part of the name has to say, as the lexicon reads it. */
export interface RoleChoice {
  role: NameRole;
  values: string[];
  isExcluded: boolean;
  /** Where the query says so. */
  at: number;
  length: number;
}

export interface Query {
  words: Word[];
  ranges: Range[];
  choices: Choice[];
  roles: RoleChoice[];
  /** What the content of a text has to hold, in lower case. */
  contents: Word[];
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

export type RangeField = z.infer<typeof figureFieldSchema>;

/** Figures of facts that a query may ask for, with what they are called in a sentence. */
export const rangeFields: Readonly<Record<RangeField, string>> = {
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
};

/** Words of queries for the roles of the lexicon. */
export const roleFields = {
  lod: 'LOD',
  texture: 'texture role',
  language: 'language',
  colour: 'colour variant',
  view: 'view',
  players: 'players',
  quality: 'quality',
  half: 'body half',
  palette: 'palette number',
  of: 'belongs to',
  code: 'code name',
} as const satisfies Record<string, NameRole>;

/** Changes that a query may ask for: what the build has and the one before has not, or has otherwise. */
export const changes = ['new', 'changed'] as const;

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
 * kind:model,picture and ext:glb; size:>1MB, triangles:1000..5000, seconds:<2; change:new; lod:0, texture:normal, of:heron
 * and the like by the lexicon; text:word or text:"some words" in what texts hold.
 * @throws QueryError
 */
export function parseQuery(text: string): Query {
  const query: Query = { words: [], ranges: [], choices: [], roles: [], contents: [] };
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
  const quoted = /^([a-z]+):"([^"]*)(")?/i.exec(text.slice(at));
  if (quoted) {
    const [whole, name = '', value = '', end] = quoted;
    if (end === undefined)
      throw new QueryError(
        'The quotation mark is not closed',
        at + name.length + 1,
        text.length - at - name.length - 1,
      );
    readField(name.toLowerCase(), value, at, isExcluded, query);
    return at + whole.length;
  }
  const [term = ''] = /^\S+/.exec(text.slice(at)) ?? [];
  const [, field = '', value = ''] = /^([a-z]+):(.*)$/i.exec(term) ?? [];
  if (field === '') query.words.push({ text: term.toLowerCase(), isExcluded });
  else readField(field.toLowerCase(), value, at, isExcluded, query);
  return at + term.length;
}

function readField(field: string, value: string, at: number, isExcluded: boolean, query: Query): void {
  const valueAt = at + field.length + 1;
  if (value.trim() === '') throw new QueryError(`${field}: needs a value`, at, field.length + 1);
  if (field === 'text') {
    query.contents.push({ text: value.toLowerCase(), isExcluded });
    return;
  }
  if (Object.hasOwn(roleFields, field)) {
    const role = roleFields[field as keyof typeof roleFields];
    const values = value
      .toLowerCase()
      .split(',')
      .map((part) => part.trim())
      .filter(Boolean);
    query.roles.push({ role, values, isExcluded, at: valueAt, length: value.length });
    return;
  }
  if (field === 'kind' || field === 'ext' || field === 'change') {
    const values = value
      .toLowerCase()
      .split(',')
      .map((part) => part.replace(/^\./, ''))
      .filter(Boolean);
    if (values.length === 0) throw new QueryError(`${field}: needs a value`, at, field.length + 1);
    const known = field === 'kind' ? kinds : field === 'change' ? (changes as readonly string[]) : null;
    const wrong = values.find((part) => known && !known.includes(part));
    if (known && wrong !== undefined)
      throw new QueryError(
        `“${wrong}” is no ${field}: there are ${known.join(', ')}`,
        valueAt + value.toLowerCase().indexOf(wrong),
        wrong.length,
      );
    query.choices.push({ field, values, isExcluded });
    return;
  }
  if (!Object.hasOwn(rangeFields, field))
    throw new QueryError(
      `“${field}:” is nothing to search by: there are kind, ext, change, text, ${[...Object.keys(rangeFields), ...Object.keys(roleFields)].join(', ')}`,
      at,
      field.length,
    );
  query.ranges.push({ field: field as RangeField, ...readRange(value, valueAt), isExcluded });
}

/** `>5`, `>=5`, `<5`, `<=5`, `5..9`, `5..`, `..9` or `5`; of sizes with k, MB and the like. */
function readRange(value: string, at: number): { low: number; high: number } {
  const number = (text: string): number => {
    const [, digits, unit = ''] = /^(\d+(?:\.\d+)?)([a-z]*)$/i.exec(text) ?? [];
    const factor = factors[unit.toLowerCase()];
    if (digits === undefined || factor === undefined)
      throw new QueryError(
        `“${text}” is no number; 12, 1.5, 300k, 2MB, >5, <5 and 5..9 are understood`,
        at,
        Math.max(1, value.length),
      );
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
  if (more.length > 0 || (low === '' && high === ''))
    throw new QueryError('A range has two ends, such as 5..9', at, value.length);
  const range = { low: low ? number(low) : -Infinity, high: high ? number(high) : Infinity };
  if (range.low > range.high) throw new QueryError('The lower end of a range comes first', at, value.length);
  return range;
}

/** The least number above, as far as figures of facts go. */
function next(value: number): number {
  return value + Math.max(1e-9, Math.abs(value) * 1e-12);
}
