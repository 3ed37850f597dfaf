import type { KeptSheet } from '../../../contract/kept-sheets.ts';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { role } from '../../acquire/builds/spans.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { change, select } from '../../platform/database/rows.ts';
import { describedFormat } from '../formats/described-format.ts';
import { recipeFormats } from './recipes.ts';

/** Says of the files that a job gathered which of them a team describes: placement tables by recipes, others by sheets. */
export async function labelStaged(
  pool: Pool,
  jobId: number,
  recipes: readonly PlacementRecipe[],
  sheets: readonly KeptSheet[],
): Promise<void> {
  if (recipes.length + sheets.length === 0) return;
  const formatFor = describedFormat(recipes, sheets);
  const onlyThese = sheets.length === 0 ? 'AND i.format IN (?)' : '';
  const rows = await select<{ digest: Buffer; path: string; format: string }>(
    pool,
    `SELECT i.path_digest AS digest, p.path, i.format FROM intake_assets i JOIN paths p ON p.digest = i.path_digest
      WHERE i.job_id = ? AND i.role = ? AND i.hash IS NOT NULL ${onlyThese}`,
    [jobId, role.file, ...(sheets.length === 0 ? [recipeFormats] : [])],
  );
  const found = new Map<string, Buffer[]>();
  for (const { path, digest, format: known } of rows) {
    const format = formatFor(path, known);
    if (format === null) continue;
    const digests = found.get(format);
    if (digests) digests.push(digest);
    else found.set(format, [digest]);
  }
  for (const [format, digests] of found)
    for (let from = 0; from < digests.length; from += 1000)
      await change(
        pool,
        'UPDATE intake_assets SET format = ?, by_extension = 1 WHERE job_id = ? AND path_digest IN (?)',
        [format, jobId, digests.slice(from, from + 1000)],
      );
}
