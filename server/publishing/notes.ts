import type { Note } from '../../contract/catalogue.ts';
import { findTitleOf } from '../acquire/builds/builds.ts';
import { changeItemsIn, inHistory, type KeptItems } from '../people/history/kept-items.ts';
import type { Pool } from '../platform/database/pool.ts';
import { change, select, selectOne, type Queryable } from '../platform/database/rows.ts';
import { ConflictError } from '../platform/plain-error.ts';
import { pathDigest } from '../store/hash.ts';

/** The note on how an asset was taken out; an empty one, revision 0, where nobody wrote any. */
export async function findNote(database: Queryable, channelId: number, path: string): Promise<Note> {
  const row = await selectOne<{ body: string; revision: number; savedAt: Date }>(
    database,
    'SELECT body, revision, saved_at AS savedAt FROM notes WHERE channel_id = ? AND path_digest = ?',
    [channelId, pathDigest(path)],
  );
  return row ? { ...row, savedAt: row.savedAt.toISOString() } : { body: '', revision: 0, savedAt: null };
}

export const keptNotes: KeptItems = {
  subject: 'notes',
  async read(connection, { channelId }, items) {
    const states = new Map<string, string>();
    for (const path of items) {
      const row = await selectOne<{ body: string }>(
        connection,
        'SELECT body FROM notes WHERE channel_id = ? AND path_digest = ? FOR UPDATE',
        [channelId, pathDigest(path)],
      );
      if (row) states.set(path, JSON.stringify(row.body));
    }
    return states;
  },
  async write(connection, { channelId }, states) {
    for (const [path, state] of states) {
      const digest = pathDigest(path);
      await change(connection, 'INSERT IGNORE INTO paths (digest, path) VALUES (?, ?)', [digest, path]);
      // A note that is taken back is empty: its revision goes on counting.
      await change(
        connection,
        `INSERT INTO notes (channel_id, path_digest, body, revision, saved_at) VALUES (?, ?, ?, 1, NOW(3))
          ON DUPLICATE KEY UPDATE body = VALUES(body), revision = revision + 1, saved_at = VALUES(saved_at)`,
        [channelId, digest, state === null ? '' : String(JSON.parse(state))],
      );
    }
  },
};

/** @throws ConflictError when somebody saved the note since `revision` was read */
export async function saveNote(
  pool: Pool,
  channelId: number,
  path: string,
  body: string,
  revision: number,
  by: string,
): Promise<Note> {
  const titleId = await findTitleOf(pool, channelId);
  await inHistory(pool, titleId, async (connection) => {
    const present = await findNote(connection, channelId, path);
    if (present.revision !== revision)
      throw new ConflictError(
        'Somebody else saved this note meanwhile: copy your text, load it again, and put the two together.',
      );
    await changeItemsIn(
      connection,
      keptNotes,
      { titleId, channelId },
      new Map([[path, JSON.stringify(body)]]),
      `wrote the note on ${path}`,
      { by, seen: null },
    );
  });
  return findNote(pool, channelId, path);
}

export async function pathsWithNotes(
  database: Queryable,
  channelId: number,
  paths: readonly string[],
): Promise<Set<string>> {
  if (paths.length === 0) return new Set();
  const rows = await select<{ path: string }>(
    database,
    `SELECT p.path FROM notes n JOIN paths p ON p.digest = n.path_digest
      WHERE n.channel_id = ? AND n.path_digest IN (?) AND n.body <> ''`,
    [channelId, paths.map(pathDigest)],
  );
  return new Set(rows.map(({ path }) => path));
}
