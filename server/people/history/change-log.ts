import type {
  Change,
  ChangeItem,
  ChangePage,
  ChangeQuery,
  ChangeSubject,
  ToldChange,
} from '../../../contract/history.ts';
import { change, select, selectOne, type Queryable, type Value } from '../../platform/database/rows.ts';
import { cameFrom } from '../came-from.ts';
import { digestOf } from '../../store/hash.ts';
import { ConflictError } from '../../platform/plain-error.ts';

/** What a change is in: a title, and a channel or a span of it where what is changed belongs to one. */
export interface Scope {
  titleId: number;
  channelId: number | null;
  fromBuild?: number;
  toBuild?: number;
}

/** Who changes something. */
export interface Author {
  by: string;
  /** The newest change that they have seen; null where they have seen none, and mean what they say in any case. */
  seen: number | null;
}

export interface LoggedItem {
  item: string;
  /** JSON; null where nothing is said. */
  before: string | null;
  after: string | null;
}

const rowsAtOnce = 500;
const whatLength = 300;

/** Writes down that something was changed. @returns the number of the change: the revision of all that it changed */
export async function addChange(
  connection: Queryable,
  subject: ChangeSubject,
  { titleId, channelId, fromBuild, toBuild }: Scope,
  by: string,
  what: string,
): Promise<number> {
  const { insertId } = await change(
    connection,
    'INSERT INTO changes (title_id, channel_id, from_build, to_build, subject, what, done_by, came_from) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
    [
      titleId,
      channelId,
      fromBuild ?? null,
      toBuild ?? null,
      subject,
      what.slice(0, whatLength),
      by,
      cameFrom(),
    ],
  );
  return insertId;
}

export async function addItems(
  connection: Queryable,
  changeId: number,
  items: readonly LoggedItem[],
): Promise<void> {
  for (let from = 0; from < items.length; from += rowsAtOnce) {
    const part = items.slice(from, from + rowsAtOnce);
    await change(
      connection,
      `INSERT INTO change_items (change_id, item_digest, item, before_change, after_change)
       VALUES ${part.map(() => '(?, ?, ?, ?, ?)').join(', ')}`,
      part.flatMap(({ item, before, after }) => [changeId, digestOf(item), item, before, after]),
    );
  }
}

/** Says that a change is taken back. @throws ConflictError where it was already, or is none of these */
export async function markUndone(
  connection: Queryable,
  changeId: number,
  subject: ChangeSubject,
): Promise<void> {
  const { changed } = await change(
    connection,
    'UPDATE changes SET undone = 1 WHERE id = ? AND subject = ? AND undone = 0',
    [changeId, subject],
  );
  if (changed === 0) throw new ConflictError('This was undone already.');
}

export async function itemsOf(connection: Queryable, changeId: number): Promise<LoggedItem[]> {
  return select<LoggedItem>(
    connection,
    "SELECT item, before_change AS 'before', after_change AS 'after' FROM change_items WHERE change_id = ? ORDER BY item",
    [changeId],
  );
}

/**
 * What somebody else changed among items since the newest change that was seen.
 * @throws ConflictError that says who, and what
 */
export async function refuseUnseen(
  connection: Queryable,
  subject: ChangeSubject,
  { titleId, channelId }: Scope,
  items: readonly string[],
  { by, seen }: Author,
): Promise<void> {
  if (seen === null) return;
  for (let from = 0; from < items.length; from += rowsAtOnce) {
    const [other] = await select<{ item: string; doneBy: string; what: string }>(
      connection,
      `SELECT i.item, c.done_by AS doneBy, c.what FROM changes c JOIN change_items i ON i.change_id = c.id
        WHERE c.title_id = ? AND c.subject = ? AND c.channel_id <=> ? AND c.id > ? AND c.done_by <> ?
          AND i.item_digest IN (?) ORDER BY c.id DESC LIMIT 1`,
      [
        titleId,
        subject,
        channelId,
        seen,
        by,
        items.slice(from, from + rowsAtOnce).map((item) => digestOf(item)),
      ],
    );
    if (other)
      throw new ConflictError(
        `${other.doneBy || 'Somebody'} was faster: ${other.what}. Nothing was changed; look, and do it again if you still want to.`,
      );
  }
}

/** The newest change of all; 0 where there was none. */
export async function newestChange(database: Queryable): Promise<number> {
  const row = await selectOne<{ id: number | null }>(database, 'SELECT MAX(id) AS id FROM changes');
  return row?.id ?? 0;
}

/** What was changed after a change, the oldest first; without marks, which are told by span. */
export async function changesAfter(database: Queryable, id: number, most: number): Promise<ToldChange[]> {
  return select<ToldChange>(
    database,
    `SELECT id, title_id AS title, subject, what, done_by AS doneBy FROM changes
      WHERE id > ? AND subject <> 'marks' ORDER BY id LIMIT ?`,
    [id, most],
  );
}

/** Changes of a title, the newest first. */
export async function listChanges(
  database: Queryable,
  { title, subject, by, offset, limit }: ChangeQuery,
): Promise<ChangePage> {
  const where = ['c.title_id = ?'];
  const values: Value[] = [title];
  if (subject !== '') {
    where.push('c.subject = ?');
    values.push(subject);
  }
  if (by !== '') {
    where.push('c.done_by = ?');
    values.push(by);
  }
  const condition = where.join(' AND ');
  const rows = await select<Omit<Change, 'doneAt' | 'isUndone'> & { doneAt: Date; undone: number }>(
    database,
    `SELECT c.id, c.subject, COALESCE(h.name, '') AS channel, COALESCE(f.label, '') AS 'from', COALESCE(t.label, '') AS 'to',
        c.what, c.done_by AS doneBy, c.done_at AS doneAt, c.undone,
        (SELECT COUNT(*) FROM change_items i WHERE i.change_id = c.id) AS items
       FROM changes c LEFT JOIN channels h ON h.id = c.channel_id
       LEFT JOIN builds f ON f.id = c.from_build LEFT JOIN builds t ON t.id = c.to_build
      WHERE ${condition} ORDER BY c.id DESC LIMIT ? OFFSET ?`,
    [...values, limit, offset],
  );
  const counted = await selectOne<{ total: number }>(
    database,
    `SELECT COUNT(*) AS total FROM changes c WHERE ${condition}`,
    values,
  );
  const people = await select<{ name: string }>(
    database,
    "SELECT DISTINCT done_by AS name FROM changes WHERE title_id = ? AND done_by <> '' ORDER BY name LIMIT 200",
    [title],
  );
  return {
    total: counted?.total ?? 0,
    changes: rows.map(({ undone, doneAt, ...row }) => ({
      ...row,
      doneAt: doneAt.toISOString(),
      isUndone: undone === 1,
    })),
    people: people.map(({ name }) => name),
  };
}

const mostItems = 200;

/** What a change was of each of its items; at most two hundred. */
export async function listItems(database: Queryable, changeId: number): Promise<ChangeItem[]> {
  return select<ChangeItem>(
    database,
    "SELECT item, before_change AS 'before', after_change AS 'after' FROM change_items WHERE change_id = ? ORDER BY item LIMIT ?",
    [changeId, mostItems],
  );
}
