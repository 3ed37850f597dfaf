import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { change, parseColumn, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import { digestOf } from '../../store/hash.ts';

/** Lists of a title that are saved as a whole, by their columns. */
export type TitleSetting = 'noise_rules' | 'recipes';

export interface SavedSetting {
  /** Null where nobody saved any. */
  value: unknown;
  /** Names this state of it. */
  revision: string;
}

/** @throws NotFoundError */
export async function readTitleSetting(
  database: Queryable,
  titleId: number,
  setting: TitleSetting,
  isToBeChanged = false,
): Promise<SavedSetting> {
  const row = await selectOne<{ value: unknown }>(
    database,
    `SELECT ${setting} AS value FROM titles WHERE id = ?${isToBeChanged ? ' FOR UPDATE' : ''}`,
    [titleId],
  );
  if (!row) throw new NotFoundError(`There is no title ${titleId}.`);
  const value = parseColumn(row.value);
  return {
    value,
    revision: digestOf(JSON.stringify(value ?? null))
      .toString('hex')
      .slice(0, 16),
  };
}

/**
 * Saves a list whole, where it still is as whoever saves it saw it.
 * @param revision that they saw @throws ConflictError where somebody else saved another one since, NotFoundError
 */
export async function saveTitleSetting(
  pool: Pool,
  titleId: number,
  setting: TitleSetting,
  value: unknown,
  revision: string,
): Promise<void> {
  await inTransaction(pool, async (connection) => {
    const saved = await readTitleSetting(connection, titleId, setting, true);
    if (saved.revision !== revision)
      throw new ConflictError('Somebody else changed these meanwhile. Load them again, then change them.');
    await change(connection, `UPDATE titles SET ${setting} = ? WHERE id = ?`, [
      JSON.stringify(value),
      titleId,
    ]);
  });
}
