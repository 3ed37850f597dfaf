import * as z from 'zod';
import { plural } from '../../../core/figures.ts';
import type { Author } from '../../people/history/change-log.ts';
import { changeItems, type KeptItems } from '../../people/history/kept-items.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { change, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { pathDigest } from '../../store/hash.ts';
import { bumpNames } from '../names/lexicons.ts';

/** Says of a file that it is in no family but its own. */
const noFamily = Buffer.alloc(16);
const stateSchema = z.object({ with: z.string().nullable() });

export const keptFamilies: KeptItems = {
  subject: 'families',
  async read(connection, { channelId }, items) {
    const states = new Map<string, string>();
    for (let from = 0; from < items.length; from += 500) {
      const rows = await select<{ path: string; other: string | null }>(
        connection,
        `SELECT p.path, o.path AS other FROM family_corrections f JOIN paths p ON p.digest = f.path_digest
           LEFT JOIN paths o ON o.digest = f.with_digest
          WHERE f.channel_id = ? AND f.path_digest IN (?) FOR UPDATE`,
        [channelId, items.slice(from, from + 500).map(pathDigest)],
      );
      for (const { path, other } of rows) states.set(path, JSON.stringify({ with: other }));
    }
    return states;
  },
  async write(connection, { titleId, channelId }, states) {
    for (const [path, state] of states) {
      if (state === null) {
        await change(connection, 'DELETE FROM family_corrections WHERE channel_id = ? AND path_digest = ?', [
          channelId,
          pathDigest(path),
        ]);
        continue;
      }
      const { with: other } = stateSchema.parse(JSON.parse(state));
      await change(
        connection,
        'REPLACE INTO family_corrections (channel_id, path_digest, with_digest) VALUES (?, ?, ?)',
        [channelId, pathDigest(path), other === null ? noFamily : pathDigest(other)],
      );
    }
    await bumpNames(connection, titleId);
  },
};

/**
 * Says which family files belong to: that of another file, none, or again what the program thinks.
 * @throws ConflictError, NotFoundError
 */
export async function correctFamilies(
  pool: Pool,
  channelId: number,
  { paths, with: other, undo }: { paths: readonly string[]; with: string | null; undo: boolean },
  author: Author,
): Promise<void> {
  const state = undo ? null : JSON.stringify({ with: other });
  const files = paths.length === 1 ? (paths[0] ?? '') : plural(paths.length, 'file');
  const verb = paths.length === 1 ? 'belongs' : 'belong';
  const what = undo
    ? `took back what was said of the family of ${files}`
    : `${files} ${verb} ${other === null ? 'to no family' : `with ${other}`}`;
  const titleId = await findTitleOf(pool, channelId);
  await changeItems(
    pool,
    keptFamilies,
    { titleId, channelId },
    new Map(paths.map((path) => [path, state])),
    what,
    author,
  );
}

/** What was said of the family of a file: the file that it belongs with, or null for none. Null where nothing was said. */
export async function saidOfFamily(
  database: Queryable,
  channelId: number,
  path: string,
): Promise<{ with: string | null } | null> {
  const row = await selectOne<{ other: string | null }>(
    database,
    `SELECT o.path AS other FROM family_corrections f LEFT JOIN paths o ON o.digest = f.with_digest
      WHERE f.channel_id = ? AND f.path_digest = ?`,
    [channelId, pathDigest(path)],
  );
  return row && { with: row.other };
}
