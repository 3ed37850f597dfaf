import type { ChangeSubject, UndoOutcome } from '../../../contract/history.ts';
import { inLockedTransaction, type Pool, type PoolConnection } from '../../platform/database/pool.ts';
import { selectOne } from '../../platform/database/rows.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { sealChanges } from './audit.ts';
import {
  addChange,
  addItems,
  itemsOf,
  markUndone,
  refuseUnseen,
  type Author,
  type LoggedItem,
  type Scope,
} from './change-log.ts';

/** Something that people say, kept item by item: how its states are read and written, as JSON by item. */
export interface KeptItems {
  subject: ChangeSubject;
  /** The present states of items, locked; what nothing is said of is left out. */
  read(connection: PoolConnection, scope: Scope, items: readonly string[]): Promise<Map<string, string>>;
  /** Writes states: null takes away what was said. */
  write(connection: PoolConnection, scope: Scope, states: ReadonlyMap<string, string | null>): Promise<void>;
}

/**
 * A transaction that changes what is kept of a title. They go one after the other, so that the numbers of changes become visible
 * in their order: whoever listens asks for what is newer than the last one that they saw.
 */
export async function inHistory<T>(
  pool: Pool,
  titleId: number,
  work: (connection: PoolConnection) => Promise<T>,
): Promise<T> {
  const result = await inLockedTransaction(pool, `worvel history ${titleId}`, work);
  await sealChanges(pool, titleId);
  return result;
}

/**
 * Changes items: all of it happens, or nothing, and it stands in the history.
 * @param next what is to be said of each item; null for nothing
 * @param what was done, in a sentence
 * @returns the number of the change; 0 where all was so already
 * @throws ConflictError where somebody else changed one of them unseen
 */
export async function changeItems(
  pool: Pool,
  kept: KeptItems,
  scope: Scope,
  next: ReadonlyMap<string, string | null>,
  what: string,
  author: Author,
): Promise<number> {
  return inHistory(pool, scope.titleId, (connection) =>
    changeItemsIn(connection, kept, scope, next, what, author),
  );
}

/** The same, within a transaction of the history that holds more than this. */
export async function changeItemsIn(
  connection: PoolConnection,
  kept: KeptItems,
  scope: Scope,
  next: ReadonlyMap<string, string | null>,
  what: string,
  author: Author,
): Promise<number> {
  const present = await kept.read(connection, scope, [...next.keys()]);
  const items: LoggedItem[] = [...next]
    .map(([item, after]) => ({ item, before: present.get(item) ?? null, after }))
    .filter(({ before, after }) => before !== after);
  if (items.length === 0) return 0;
  await refuseUnseen(
    connection,
    kept.subject,
    scope,
    items.map(({ item }) => item),
    author,
  );
  await kept.write(connection, scope, new Map(items.map(({ item, after }) => [item, after])));
  const id = await addChange(connection, kept.subject, scope, author.by, what);
  await addItems(connection, id, items);
  return id;
}

/**
 * Takes a change back: what was changed again since then stays as it is, and is told.
 * @throws ConflictError where it was undone already
 */
export async function undoChange(
  pool: Pool,
  kept: KeptItems,
  changeId: number,
  by: string,
): Promise<UndoOutcome> {
  const scope = await scopeOf(pool, changeId);
  return inHistory(pool, scope.titleId, async (connection) => {
    await markUndone(connection, changeId, kept.subject);
    const logged = await itemsOf(connection, changeId);
    const present = await kept.read(
      connection,
      scope,
      logged.map(({ item }) => item),
    );
    const untouched = logged.filter(({ item, after }) => (present.get(item) ?? null) === after);
    const conflicts = logged.filter((item) => !untouched.includes(item)).map(({ item }) => item);
    if (untouched.length === 0) return { change: 0, changed: 0, conflicts };
    await kept.write(connection, scope, new Map(untouched.map(({ item, before }) => [item, before])));
    const id = await addChange(connection, kept.subject, scope, by, `took back: ${scope.what}`);
    await addItems(
      connection,
      id,
      untouched.map(({ item, before, after }) => ({ item, before: after, after: before })),
    );
    return { change: id, changed: untouched.length, conflicts };
  });
}

/** @throws NotFoundError */
export async function scopeOf(
  pool: Pool,
  changeId: number,
): Promise<Scope & { subject: ChangeSubject; what: string }> {
  const row = await selectOne<{
    titleId: number;
    channelId: number | null;
    fromBuild: number | null;
    toBuild: number | null;
    subject: ChangeSubject;
    what: string;
  }>(
    pool,
    `SELECT title_id AS titleId, channel_id AS channelId, from_build AS fromBuild, to_build AS toBuild, subject, what
       FROM changes WHERE id = ?`,
    [changeId],
  );
  if (!row) throw new NotFoundError(`There is no change ${changeId}.`);
  const { fromBuild, toBuild, ...scope } = row;
  return {
    ...scope,
    ...(fromBuild === null ? {} : { fromBuild }),
    ...(toBuild === null ? {} : { toBuild }),
  };
}
