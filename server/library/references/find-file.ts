import { posix } from 'node:path';
import { Lexicon } from '../../../core/names/lexicon.ts';
import { placesOfPaths } from '../../../core/references/places-of-paths.ts';
import { resolve, type Places } from '../../../core/references/resolve.ts';
import { role } from '../../acquire/builds/spans.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { pathDigest } from '../../store/hash.ts';
import { findAt } from '../assets/assets.ts';
import type { FindFile } from '../../decode/read-facts.ts';
import { readLexiconState } from '../names/lexicons.ts';

export type { FindFile };

/** Where a path that counts from the folder of another leads. */
export function pathBeside(from: string, reference: string): string {
  return posix.normalize(posix.join(posix.dirname(from), reference));
}

/** By rule: the path that is meant, or null. */
export type FindByRule = (from: string, reference: string) => Promise<string | null>;

/**
 * Files of a build: what lies there exactly, else what a person linked, else what the rules find.
 * @param byRule asks the library, where one runs
 */
export function fileFinder(
  database: Queryable,
  build: PlacedBuild,
  byRule: FindByRule = ruleFinder(() => pathsOf(database, build), database, build.channelId),
): FindFile {
  return async (from, reference) => {
    const exact = await findAt(database, build, pathBeside(from, reference));
    if (exact?.hash) return exact.hash;
    const path =
      (await acceptedTarget(database, build.channelId, from, reference)) ?? (await byRule(from, reference));
    return path === null ? null : ((await findAt(database, build, path))?.hash ?? null);
  };
}

/** The file that a person said is meant; it may be gone from the build. */
export async function acceptedTarget(
  database: Queryable,
  channelId: number,
  from: string,
  reference: string,
): Promise<string | null> {
  const row = await selectOne<{ path: string }>(
    database,
    `SELECT p.path FROM accepted_links l JOIN paths p ON p.digest = l.target_digest
      WHERE l.channel_id = ? AND l.from_digest = ? AND l.text_digest = ?`,
    [channelId, pathDigest(from), pathDigest(reference)],
  );
  return row?.path ?? null;
}

/** Finds by rule among paths, which are asked for when something is missing for the first time: most builds lack nothing. */
export function ruleFinder(
  pathsOfBuild: () => Promise<string[]>,
  database: Queryable,
  channelId: number,
): FindByRule {
  let making: Promise<Places> | null = null;
  const make = async (): Promise<Places> => {
    const title = await selectOne<{ id: number }>(
      database,
      'SELECT title_id AS id FROM channels WHERE id = ?',
      [channelId],
    );
    const { entries, rules, refused } = await readLexiconState(database, title?.id ?? 0);
    return placesOfPaths(await pathsOfBuild(), new Lexicon(entries, rules, refused));
  };
  return async (from, reference) => {
    making ??= make().catch((error: unknown) => {
      // What failed is made again when somebody asks again.
      making = null;
      throw error;
    });
    const places = await making;
    const found = resolve(places, { text: reference, sort: 'path', where: 'file' }, from);
    return found && places.index.path(found.target);
  };
}

async function pathsOf(database: Queryable, build: PlacedBuild): Promise<string[]> {
  const rows = await select<{ path: string }>(
    database,
    `SELECT p.path FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
      WHERE s.channel_id = ? AND s.first_sequence <= ? AND s.last_sequence >= ? AND s.role = ? AND s.hash IS NOT NULL`,
    [build.channelId, build.sequence, build.sequence, role.file],
  );
  return rows.map(({ path }) => path);
}
