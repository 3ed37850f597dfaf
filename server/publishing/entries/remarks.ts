import type { EntryRemark } from '../../../contract/catalogue.ts';
import { change, select, type Queryable } from '../../platform/database/rows.ts';
import { NotFoundError } from '../../platform/plain-error.ts';

/** What people remarked on an entry, oldest first. */
export async function listRemarks(database: Queryable, entryId: number): Promise<EntryRemark[]> {
  const rows = await select<Omit<EntryRemark, 'at' | 'isSettled'> & { at: Date; settled: number }>(
    database,
    `SELECT id, field, text, written_by AS 'by', written_at AS 'at', settled FROM entry_remarks
      WHERE entry_id = ? ORDER BY id`,
    [entryId],
  );
  return rows.map(({ settled, at, ...row }) => ({ ...row, at: at.toISOString(), isSettled: settled === 1 }));
}

export async function addRemark(
  database: Queryable,
  entryId: number,
  { field, text }: { field: string; text: string },
  by: string,
): Promise<void> {
  await change(
    database,
    'INSERT INTO entry_remarks (entry_id, field, text, written_by) VALUES (?, ?, ?, ?)',
    [...[entryId, field, text, by]],
  );
}

/** @throws NotFoundError */
export async function settleRemark(database: Queryable, entryId: number, id: number): Promise<void> {
  const { changed } = await change(
    database,
    'UPDATE entry_remarks SET settled = 1 - settled WHERE id = ? AND entry_id = ?',
    [id, entryId],
  );
  if (changed === 0) throw new NotFoundError(`There is no remark ${id} on this entry.`);
}
