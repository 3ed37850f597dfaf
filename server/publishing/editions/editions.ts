import { editionChangesSchema, type Edition } from '../../../contract/catalogue.ts';
import { change, parseColumn, select, selectOne, type Queryable } from '../../platform/database/rows.ts';

interface EditionRow {
  number: number;
  publishedAt: Date;
  by: string;
  entries: number;
  backTo: number | null;
  changes: unknown;
  folder: string | null;
}

/** The editions of a title, the newest first. */
export async function listEditions(database: Queryable, titleId: number): Promise<Edition[]> {
  const rows = await select<EditionRow>(
    database,
    `SELECT number, published_at AS publishedAt, published_by AS 'by', entries, back_to AS backTo, changes, folder
       FROM editions WHERE title_id = ? ORDER BY number DESC`,
    [titleId],
  );
  return rows.map(({ publishedAt, changes, folder, ...row }) => {
    const told = parseColumn(changes);
    return {
      ...row,
      publishedAt: publishedAt.toISOString(),
      changes: told === null ? null : editionChangesSchema.parse(told),
      folder: folder ?? '',
    };
  });
}

export async function nextNumber(database: Queryable, titleId: number): Promise<number> {
  const row = await selectOne<{ newest: number | null }>(
    database,
    'SELECT MAX(number) AS newest FROM editions WHERE title_id = ?',
    [titleId],
  );
  return (row?.newest ?? 0) + 1;
}

export async function addEdition(
  database: Queryable,
  titleId: number,
  { number, publishedAt, by, entries, backTo, changes, folder }: Edition,
): Promise<void> {
  await change(
    database,
    `INSERT INTO editions (title_id, number, published_at, published_by, entries, back_to, changes, folder)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
    [titleId, number, new Date(publishedAt), by, entries, backTo, JSON.stringify(changes), folder],
  );
}

const rowsAtOnce = 1000;

/** Remembers under which addresses entries were published: they lead on for ever. */
export async function keepAddresses(
  database: Queryable,
  titleId: number,
  entries: readonly { id: number; address: string }[],
): Promise<void> {
  const known = new Set((await formerAddresses(database, titleId)).map(({ address }) => address));
  const fresh = entries.filter(({ address }) => !known.has(address));
  for (let from = 0; from < fresh.length; from += rowsAtOnce) {
    const part = fresh.slice(from, from + rowsAtOnce);
    await change(
      database,
      `INSERT IGNORE INTO entry_addresses (title_id, slug, entry_id) VALUES ${part.map(() => '(?, ?, ?)').join(', ')}`,
      part.flatMap(({ id, address }) => [titleId, address, id]),
    );
  }
}

/** Addresses that entries had once, with the number of each. */
export async function formerAddresses(
  database: Queryable,
  titleId: number,
): Promise<{ address: string; id: number }[]> {
  return select(
    database,
    'SELECT slug AS address, entry_id AS id FROM entry_addresses WHERE title_id = ? ORDER BY slug',
    [titleId],
  );
}
