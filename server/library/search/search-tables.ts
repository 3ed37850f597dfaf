import type { GramTables, PathTables } from '../../../core/search/path-tables.ts';
import type { StateTables } from '../../../core/search/search.ts';
import { readArrays, writeArrays, type Numbers } from './array-file.ts';

/** All that a search of one channel looks at. */
export interface SearchTables {
  paths: PathTables;
  states: StateTables;
  /** 32 bytes to a span, zeros where nothing could be read. */
  hashes: Uint8Array;
  /** 1 where there is a preview. */
  previews: Uint8Array;
  /** Paths of archives in UTF-8, each ended by a NUL. */
  containers: Uint8Array;
  /** The state of the builds that they were made of, as JSON. */
  madeOf: Uint8Array;
}

/** @param key tells what they were made of */
export function writeTables(file: string, key: string, tables: SearchTables): void {
  const { figures, oldest: _, ...states } = tables.states;
  const { first, laterGrams, ...paths } = tables.paths;
  const isPlain = paths.foldedBegin === paths.begin;
  const named = (prefix: string, arrays: object): [string, Numbers][] =>
    Object.entries(arrays).map(([name, array]): [string, Numbers] => [`${prefix}${name}`, array as Numbers]);
  writeArrays(
    file,
    key,
    new Map<string, Numbers>([
      ...named('paths.', paths).filter(([name]) => !isPlain || !name.startsWith('paths.folded')),
      ...named('first.', first),
      ...named('later.', laterGrams),
      ...named('states.', states),
      ...named('figures.', figures),
      ['hashes', tables.hashes],
      ['previews', tables.previews],
      ['containers', tables.containers],
      ['madeOf', tables.madeOf],
    ]),
  );
}

function withoutPrefix(parts: ReadonlyMap<string, Numbers>, prefix: string): Record<string, Numbers> {
  return Object.fromEntries(
    [...parts]
      .filter(([name]) => name.startsWith(prefix))
      .map(([name, array]) => [name.slice(prefix.length), array]),
  );
}

/**
 * @param key null where it does not matter what they were made of
 * @returns null where there are none, or where they were made of something else
 */
export async function readTables(file: string, key: string | null): Promise<SearchTables | null> {
  const parts = await readArrays(file, key);
  if (!parts?.has('madeOf')) return null;
  const part = (name: string): never => (parts.get(name) ?? new Uint8Array(0)) as never;
  const states = withoutPrefix(parts, 'states.') as unknown as Omit<StateTables, 'figures' | 'oldest'>;
  const paths = withoutPrefix(parts, 'paths.') as unknown as Omit<PathTables, 'first' | 'laterGrams'>;
  const grams = (prefix: string): GramTables => withoutPrefix(parts, prefix) as unknown as GramTables;
  return {
    paths: {
      ...paths,
      foldedBegin: parts.has('paths.foldedBegin') ? paths.foldedBegin : paths.begin,
      foldedEnd: parts.has('paths.foldedEnd') ? paths.foldedEnd : paths.end,
      first: grams('first.'),
      laterGrams: grams('later.'),
    },
    states: {
      ...states,
      oldest: states.first.reduce((least, first) => Math.min(least, first), Infinity),
      figures: withoutPrefix(parts, 'figures.'),
    },
    hashes: part('hashes'),
    previews: part('previews'),
    containers: part('containers'),
    madeOf: part('madeOf'),
  };
}
