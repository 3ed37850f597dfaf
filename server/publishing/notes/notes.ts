import {
  keptNoteSchema,
  noteStepsSchema,
  type Note,
  type NoteRevisions,
  type NoteStep,
} from '../../../contract/notes.ts';
import { noteChanges } from '../../../core/notes/note-changes.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import { changeItemsIn, inHistory, type KeptItems } from '../../people/history/kept-items.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { change, parseColumn, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError } from '../../platform/plain-error.ts';
import { digestOf, pathDigest } from '../../store/hash.ts';

interface NoteRow {
  body: string;
  steps: unknown;
  revision: number;
  savedAt: Date;
}

/** The note on how an asset was taken out; an empty one, revision 0, where nobody wrote any. */
export async function findNote(database: Queryable, channelId: number, path: string): Promise<Note> {
  const row = await selectOne<NoteRow>(
    database,
    'SELECT body, steps, revision, saved_at AS savedAt FROM notes WHERE channel_id = ? AND path_digest = ?',
    [channelId, pathDigest(path)],
  );
  if (!row) return { body: '', steps: [], revision: 0, savedAt: null };
  return { ...row, steps: stepsOf(row.steps), savedAt: row.savedAt.toISOString() };
}

/** Steps as a column holds them. */
export function stepsOf(column: unknown): NoteStep[] {
  return noteStepsSchema.parse(parseColumn(column) ?? []);
}

type Written = Pick<Note, 'body' | 'steps'>;

/** The same text for the same note; one without steps is its words alone, as all were before. */
function stateOf({ body, steps }: Written): string {
  return JSON.stringify(steps.length === 0 ? body : { body, steps });
}

function writtenIn(state: string | null): Written {
  return state === null ? { body: '', steps: [] } : keptNoteSchema.parse(JSON.parse(state));
}

export const keptNotes: KeptItems = {
  subject: 'notes',
  async read(connection, { channelId }, items) {
    const states = new Map<string, string>();
    for (const path of items) {
      const row = await selectOne<Pick<NoteRow, 'body' | 'steps'>>(
        connection,
        'SELECT body, steps FROM notes WHERE channel_id = ? AND path_digest = ? FOR UPDATE',
        [channelId, pathDigest(path)],
      );
      if (row) states.set(path, stateOf({ body: row.body, steps: stepsOf(row.steps) }));
    }
    return states;
  },
  async write(connection, { channelId }, states) {
    for (const [path, state] of states) {
      const digest = pathDigest(path);
      const { body, steps } = writtenIn(state);
      await change(connection, 'INSERT IGNORE INTO paths (digest, path) VALUES (?, ?)', [digest, path]);
      // A note that is taken back is empty: its revision goes on counting.
      await change(
        connection,
        `INSERT INTO notes (channel_id, path_digest, body, steps, revision, saved_at) VALUES (?, ?, ?, ?, 1, NOW(3))
          ON DUPLICATE KEY UPDATE body = VALUES(body), steps = VALUES(steps), revision = revision + 1,
            saved_at = VALUES(saved_at)`,
        [channelId, digest, body, JSON.stringify(steps)],
      );
    }
  },
};

/** @throws ConflictError when somebody saved the note since `revision` was read */
export async function saveNote(
  pool: Pool,
  { channel, path, revision, ...written }: Written & { channel: number; path: string; revision: number },
  by: string,
): Promise<Note> {
  const titleId = await findTitleOf(pool, channel);
  await inHistory(pool, titleId, async (connection) => {
    const present = await findNote(connection, channel, path);
    if (present.revision !== revision)
      throw new ConflictError(
        'Somebody else saved this note meanwhile: copy your text, load it again, and put the two together.',
      );
    await changeItemsIn(
      connection,
      keptNotes,
      { titleId, channelId: channel },
      new Map([[path, stateOf(written)]]),
      `wrote the note on ${path}`,
      { by, seen: null },
    );
  });
  return findNote(pool, channel, path);
}

const mostRevisions = 200;

/** Who wrote what of a note, the newest first. */
export async function listRevisions(
  database: Queryable,
  channelId: number,
  path: string,
): Promise<NoteRevisions> {
  const rows = await select<{
    id: number;
    by: string;
    at: Date;
    before: string | null;
    after: string | null;
  }>(
    database,
    `SELECT c.id, c.done_by AS 'by', c.done_at AS 'at', i.before_change AS 'before', i.after_change AS 'after'
       FROM change_items i JOIN changes c ON c.id = i.change_id
      WHERE i.item_digest = ? AND c.subject = 'notes' AND c.channel_id = ? ORDER BY c.id DESC LIMIT ?`,
    [digestOf(path), channelId, mostRevisions],
  );
  return rows.map(({ id, by, at, before, after }) => ({
    change: id,
    by,
    at: at.toISOString(),
    what: noteChanges(writtenIn(before), writtenIn(after)),
  }));
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
      WHERE n.channel_id = ? AND n.path_digest IN (?) AND (n.body <> '' OR n.steps <> '[]')`,
    [channelId, paths.map(pathDigest)],
  );
  return new Set(rows.map(({ path }) => path));
}

/** The notes of a channel that hold anything, by path, with the number of their steps. */
export async function listNotes(
  database: Queryable,
  channelId: number,
): Promise<{ path: string; steps: number }[]> {
  return select(
    database,
    `SELECT p.path, JSON_LENGTH(n.steps) AS steps FROM notes n JOIN paths p ON p.digest = n.path_digest
      WHERE n.channel_id = ? AND (n.body <> '' OR n.steps <> '[]') ORDER BY p.path`,
    [channelId],
  );
}
