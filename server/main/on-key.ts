import type { OnKey } from '../ingest/keys/routes.ts';
import { readSheets, sheetsWithKeys } from '../library/formats/sheets.ts';
import { addRecipesJob } from '../library/recipes/recipes-job.ts';
import { selectOne } from '../platform/database/rows.ts';

/** What format sheets unpack with keys is read again with the new one. */
export const onKey: OnKey = async (pool, title) => {
  const row = await selectOne<{ id: number }>(pool, 'SELECT id FROM titles WHERE name = ?', [title]);
  if (!row) return null;
  const names = sheetsWithKeys((await readSheets(pool, row.id)).sheets);
  return names.length > 0 ? addRecipesJob(pool, row.id, title, names) : null;
};
