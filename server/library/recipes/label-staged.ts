import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { role } from '../../acquire/builds/spans.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { change, select } from '../../platform/database/rows.ts';
import { recipeFinder, recipeFormats } from './recipes.ts';

/** Says of the files that a job gathered which of them are placement tables by a recipe. */
export async function labelStaged(
  pool: Pool,
  jobId: number,
  recipes: readonly PlacementRecipe[],
): Promise<void> {
  if (recipes.length === 0) return;
  const recipeFor = recipeFinder(recipes);
  const rows = await select<{ digest: Buffer; path: string }>(
    pool,
    `SELECT i.path_digest AS digest, p.path FROM intake_assets i JOIN paths p ON p.digest = i.path_digest
      WHERE i.job_id = ? AND i.role = ? AND i.hash IS NOT NULL AND i.format IN (?)`,
    [jobId, role.file, recipeFormats],
  );
  const found = rows.filter(({ path }) => recipeFor(path)).map(({ digest }) => digest);
  for (let from = 0; from < found.length; from += 1000)
    await change(
      pool,
      "UPDATE intake_assets SET format = 'recipe', by_extension = 1 WHERE job_id = ? AND path_digest IN (?)",
      [jobId, found.slice(from, from + 1000)],
    );
}
