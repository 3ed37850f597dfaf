import { findTitleOf } from '../../acquire/builds/builds.ts';
import type { DescribeFile } from '../../decode/operations.ts';
import type { Queryable } from '../../platform/database/rows.ts';
import { isDescribed } from './described-format.ts';
import { readRecipes, recipeFinder } from '../recipes/recipes.ts';
import { readSheets, sheetFinder } from './sheets.ts';

/** What a title's team says of how files are built: by recipes and by format sheets. */
export async function readDescriptions(database: Queryable, titleId: number): Promise<DescribeFile> {
  const recipeFor = recipeFinder((await readRecipes(database, titleId)).recipes);
  const sheetFor = sheetFinder((await readSheets(database, titleId)).sheets);
  return (path, format) => {
    if (format === 'recipe') return { recipe: recipeFor(path) };
    const found = sheetFor(path);
    return found?.format === format ? { sheet: { text: found.sheet.text, version: null } } : {};
  };
}

/** The same for files of these formats: most are known by their bytes, and nothing has to be looked up. */
export async function descriptionsFor(
  database: Queryable,
  channelId: number,
  formats: readonly string[],
): Promise<DescribeFile> {
  if (!formats.some(isDescribed)) return () => ({});
  return readDescriptions(database, await findTitleOf(database, channelId));
}
