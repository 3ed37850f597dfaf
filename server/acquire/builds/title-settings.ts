import type { Pool } from '../../platform/database/pool.ts';
import { change, parseColumn, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import * as z from 'zod';
import type { ChangeSubject } from '../../../contract/history.ts';
import { changeItemsIn, inHistory, type KeptItems } from '../../people/history/kept-items.ts';
import { digestOf } from '../../store/hash.ts';

/** Lists of a title that are saved as a whole, by their columns. */
export type TitleSetting = 'noise_rules' | 'recipes' | 'format_sheets';

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

const subjects = {
  noise_rules: 'noise rules',
  recipes: 'recipes',
  format_sheets: 'format sheets',
} as const satisfies Record<TitleSetting, ChangeSubject>;

/** A list of a title as a thing that the history keeps: one item, whose state is the whole list. */
export function keptSetting(setting: TitleSetting): KeptItems {
  return {
    subject: subjects[setting],
    async read(connection, { titleId }) {
      const { value } = await readTitleSetting(connection, titleId, setting, true);
      return new Map(value === null ? [] : [[setting, JSON.stringify(value)]]);
    },
    async write(connection, { titleId }, states) {
      await change(connection, `UPDATE titles SET ${setting} = ? WHERE id = ?`, [
        states.get(setting) ?? null,
        titleId,
      ]);
    },
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
  value: readonly { key?: string; name: string }[],
  revision: string,
  by: string,
): Promise<void> {
  await inHistory(pool, titleId, async (connection) => {
    const saved = await readTitleSetting(connection, titleId, setting, true);
    if (saved.revision !== revision)
      throw new ConflictError('Somebody else changed these meanwhile. Load them again, then change them.');
    await changeItemsIn(
      connection,
      keptSetting(setting),
      { titleId, channelId: null },
      new Map([[setting, JSON.stringify(value)]]),
      describeLists(namedList.parse(saved.value ?? []), value),
      { by, seen: null },
    );
  });
}

const namedList = z.array(z.looseObject({ name: z.string() }));

/** What is new, gone and changed between two lists, by the names of what is in them. */
export function describeLists(
  before: readonly { name: string }[],
  after: readonly { name: string }[],
): string {
  const old = new Map(before.map((item) => [item.name, JSON.stringify(item)]));
  const now = new Map(after.map((item) => [item.name, JSON.stringify(item)]));
  const part = (verb: string, names: string[]): string[] =>
    names.length > 0 ? [`${verb} ${names.map((name) => `“${name}”`).join(', ')}`] : [];
  const parts = [
    ...part(
      'added',
      [...now.keys()].filter((name) => !old.has(name)),
    ),
    ...part(
      'removed',
      [...old.keys()].filter((name) => !now.has(name)),
    ),
    ...part(
      'changed',
      [...now].filter(([name, text]) => old.has(name) && old.get(name) !== text).map(([name]) => name),
    ),
  ];
  return parts.join(', ') || 'put in another order';
}
