import { createHash } from 'node:crypto';
import type { AuditPage, AuditRow } from '../../../contract/history.ts';
import { inLockedTransaction, type Pool, type PoolConnection } from '../../platform/database/pool.ts';
import { change, select, type Queryable } from '../../platform/database/rows.ts';
import { addChange, addItems, type LoggedItem } from './change-log.ts';

const rowsAtOnce = 500;
const firstSeal = Buffer.alloc(32);

interface ChangeRow {
  id: number;
  titleId: number;
  channelId: number | null;
  fromBuild: number | null;
  toBuild: number | null;
  subject: string;
  what: string;
  doneBy: string;
  doneAt: Date;
  cameFrom: string;
  sealNumber: number | null;
  seal: Buffer | null;
}

const columns = `SELECT id, title_id AS titleId, channel_id AS channelId, from_build AS fromBuild, to_build AS toBuild, subject,
  what, done_by AS doneBy, done_at AS doneAt, came_from AS cameFrom, seal_number AS sealNumber, seal FROM changes`;

type ItemRow = LoggedItem & { changeId: number };

/** Items of changes, by the number of the change, each in the order of their names. */
async function itemsOfChanges(
  database: Queryable,
  changes: readonly { id: number }[],
): Promise<Map<number, LoggedItem[]>> {
  const found = new Map<number, LoggedItem[]>();
  if (changes.length === 0) return found;
  const rows = await select<ItemRow>(
    database,
    `SELECT change_id AS changeId, item, before_change AS 'before', after_change AS 'after' FROM change_items
      WHERE change_id IN (?) ORDER BY change_id, item_digest`,
    [changes.map(({ id }) => id)],
  );
  for (const { changeId, ...item } of rows) found.set(changeId, [...(found.get(changeId) ?? []), item]);
  return found;
}

/** All that a change says, as one text. Whether it was taken back later is another change. */
function textOf(row: ChangeRow, number: number, items: readonly LoggedItem[]): string {
  return JSON.stringify([
    ...[
      number,
      row.id,
      row.titleId,
      row.channelId,
      row.fromBuild,
      row.toBuild,
      row.subject,
      row.what,
      row.doneBy,
    ],
    ...[
      row.doneAt.toISOString(),
      row.cameFrom,
      items.map(({ item, before, after }) => [item, before, after]),
    ],
  ]);
}

/** SHA-256 over the seal before and what the change says. */
function sealOf(before: Buffer, text: string): Buffer {
  return createHash('sha256').update(before).update(text).digest();
}

/** Seals what was changed in a title since it was sealed last. */
export async function sealChanges(pool: Pool, titleId: number): Promise<void> {
  await inLockedTransaction(pool, `worvel seal ${titleId}`, async (connection) => {
    for (;;) {
      const open = await select<ChangeRow>(
        connection,
        `${columns} WHERE title_id = ? AND seal_number IS NULL ORDER BY id LIMIT ?`,
        [titleId, rowsAtOnce],
      );
      if (open.length === 0) return;
      await sealRows(connection, titleId, open);
    }
  });
}

async function sealRows(
  connection: PoolConnection,
  titleId: number,
  open: readonly ChangeRow[],
): Promise<void> {
  const [last] = await select<{ sealNumber: number; seal: Buffer }>(
    connection,
    `SELECT seal_number AS sealNumber, seal FROM changes WHERE title_id = ? AND seal_number IS NOT NULL
      ORDER BY seal_number DESC LIMIT 1`,
    [titleId],
  );
  let { sealNumber: number, seal } = last ?? { sealNumber: 0, seal: firstSeal };
  const items = await itemsOfChanges(connection, open);
  for (const row of open) {
    number++;
    seal = sealOf(seal, textOf(row, number, items.get(row.id) ?? []));
    await change(connection, 'UPDATE changes SET seal_number = ?, seal = ? WHERE id = ?', [
      number,
      seal,
      row.id,
    ]);
  }
}

/**
 * A part of a title's audit, oldest first, with what is found of its seals.
 * @param after number of the last seal that was read before; 0 from the beginning
 */
export async function readAudit(
  pool: Pool,
  titleId: number,
  after: number,
  limit: number,
): Promise<AuditPage> {
  await sealChanges(pool, titleId);
  const rows = await select<ChangeRow>(
    pool,
    `${columns} WHERE title_id = ? AND seal_number > ? ORDER BY seal_number LIMIT ?`,
    [titleId, after, limit],
  );
  const [before] =
    after === 0
      ? []
      : await select<{ seal: Buffer }>(
          pool,
          'SELECT seal FROM changes WHERE title_id = ? AND seal_number = ?',
          [...[titleId, after]],
        );
  let seal = before?.seal ?? firstSeal;
  let broken = after > 0 && !before ? `There is no change with seal ${after} any more.` : '';
  const items = await itemsOfChanges(pool, rows);
  const told: AuditRow[] = [];
  for (const [at, row] of rows.entries()) {
    const number = after + at + 1;
    const own = items.get(row.id) ?? [];
    if (broken === '' && row.sealNumber !== number) broken = `The change with seal ${number} is gone.`;
    seal = sealOf(seal, textOf(row, row.sealNumber ?? 0, own));
    if (broken === '' && !row.seal?.equals(seal))
      broken = `The change with seal ${number} is not as it was sealed: ${row.what}.`;
    told.push({
      ...{
        seal: row.seal?.toString('hex') ?? '',
        number: row.sealNumber ?? 0,
        id: row.id,
        subject: row.subject,
      },
      ...{ what: row.what, by: row.doneBy, at: row.doneAt.toISOString(), from: row.cameFrom, items: own },
    });
  }
  return { rows: told, broken };
}

/**
 * Writes down what somebody did that no other change tells: published, kept a key, removed a build. It cannot be taken back, and
 * holds no key and no password.
 */
export async function addDeed(
  pool: Pool,
  titleId: number,
  by: string,
  what: string,
  items: readonly LoggedItem[] = [],
): Promise<void> {
  await inLockedTransaction(pool, `worvel history ${titleId}`, async (connection) => {
    const id = await addChange(connection, 'deeds', { titleId, channelId: null }, by, what);
    await addItems(connection, id, items);
  });
  await sealChanges(pool, titleId);
}
