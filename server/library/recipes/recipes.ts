import { compileNameGlob } from '../../../core/globs.ts';
import { recipesSchema, type PlacementRecipe, type RecipesState } from '../../../contract/recipes.ts';
import { readTitleSetting, saveTitleSetting } from '../../acquire/builds/title-settings.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { parseColumn, selectOne, type Queryable } from '../../platform/database/rows.ts';

/** Formats of files that a recipe can be for: the others are known by their bytes. */
export const recipeFormats: readonly string[] = [
  'json',
  'csv',
  'xml',
  'binary',
  'plain',
  'ini',
  'yaml',
  'placements',
  'recipe',
];

/** A title's recipes, and which state of them this is. @throws NotFoundError */
export async function readRecipes(database: Queryable, titleId: number): Promise<RecipesState> {
  const { value, revision } = await readTitleSetting(database, titleId, 'recipes');
  return { recipes: recipesSchema.parse(value ?? []), revision };
}

/** @throws ConflictError where somebody else saved others since this revision */
export async function saveRecipes(
  pool: Pool,
  titleId: number,
  { recipes, revision }: RecipesState,
  by: string,
): Promise<void> {
  await saveTitleSetting(pool, titleId, 'recipes', recipes, revision, by);
}

/** Recipes of the title that a job's build is of. */
export async function recipesOfJob(database: Queryable, jobId: number): Promise<PlacementRecipe[]> {
  const row = await selectOne<{ recipes: unknown }>(
    database,
    `SELECT t.recipes FROM jobs j JOIN builds b ON b.id = j.build_id JOIN channels c ON c.id = b.channel_id
       JOIN titles t ON t.id = c.title_id WHERE j.id = ?`,
    [jobId],
  );
  return recipesSchema.parse(parseColumn(row?.recipes ?? null) ?? []);
}

/** Finds the recipe for a path: of several the first. */
export function recipeFinder(
  recipes: readonly PlacementRecipe[],
): (path: string) => PlacementRecipe | undefined {
  const matchers = recipes.map((recipe) => ({ recipe, matches: compileNameGlob(recipe.files) }));
  return (path) => matchers.find(({ matches }) => matches(path))?.recipe;
}
