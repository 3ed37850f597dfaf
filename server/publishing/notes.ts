import type { Note } from '../../contract/catalogue.ts';
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

/** @throws ConflictError when somebody saved the note since `revision` was read */
export async function saveNote(
  database: Queryable,
  channelId: number,
  path: string,
  body: string,
  revision: number,
): Promise<Note> {
  const digest = pathDigest(path);
  await change(database, 'INSERT IGNORE INTO paths (digest, path) VALUES (?, ?)', [digest, path]);
  const { changed } =
    revision === 0
      ? await change(
          database,
          'INSERT IGNORE INTO notes (channel_id, path_digest, body, revision, saved_at) VALUES (?, ?, ?, 1, NOW(3))',
          [channelId, digest, body],
        )
      : await change(
          database,
          'UPDATE notes SET body = ?, revision = revision + 1, saved_at = NOW(3) WHERE channel_id = ? AND path_digest = ? AND revision = ?',
          [body, channelId, digest, revision],
        );
  if (changed === 0)
    throw new ConflictError(
      'Somebody else saved this note meanwhile: copy your text, load it again, and put the two together.',
    );
  return findNote(database, channelId, path);
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
