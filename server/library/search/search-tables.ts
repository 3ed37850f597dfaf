import type { PathTables } from '../../../core/search/path-tables.ts';
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
}

/** @param key tells what they were made of */
export function writeTables(file: string, key: string, tables: SearchTables): void {
  const { figures, oldest: _, ...states } = tables.states;
  writeArrays(
    file,
    key,
    new Map<string, Numbers>([
      ...Object.entries(tables.paths).map(([name, array]): [string, Numbers] => [
        `paths.${name}`,
        array as Numbers,
      ]),
      ...Object.entries(states).map(([name, array]): [string, Numbers] => [`states.${name}`, array]),
      ...Object.entries(figures).map(([name, array]): [string, Numbers] => [`figures.${name}`, array]),
      ['hashes', tables.hashes],
      ['previews', tables.previews],
      ['containers', tables.containers],
    ]),
  );
}

/** What finds paths, whatever builds it was made of. @returns null where there is none */
export async function readPathTables(file: string): Promise<PathTables | null> {
  const parts = await readArrays(file, null, (name) => name.startsWith('paths.'));
  return parts && (withoutPrefix(parts, 'paths.') as unknown as PathTables);
}

function withoutPrefix(parts: ReadonlyMap<string, Numbers>, prefix: string): Record<string, Numbers> {
  return Object.fromEntries(
    [...parts]
      .filter(([name]) => name.startsWith(prefix))
      .map(([name, array]) => [name.slice(prefix.length), array]),
  );
}

/** @returns null where there are none, or where they were made of something else */
export async function readTables(file: string, key: string): Promise<SearchTables | null> {
  const parts = await readArrays(file, key);
  if (!parts) return null;
  const part = (name: string): never => (parts.get(name) ?? new Uint8Array(0)) as never;
  const states = withoutPrefix(parts, 'states.') as unknown as Omit<StateTables, 'figures' | 'oldest'>;
  return {
    paths: withoutPrefix(parts, 'paths.') as unknown as PathTables,
    states: {
      ...states,
      oldest: states.first.reduce((least, first) => Math.min(least, first), Infinity),
      figures: withoutPrefix(parts, 'figures.'),
    },
    hashes: part('hashes'),
    previews: part('previews'),
    containers: part('containers'),
  };
}
