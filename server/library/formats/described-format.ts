import type { KeptSheet } from '../../../contract/kept-sheets.ts';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import type { FormatName } from '../../../core/kinds/formats.ts';
import { recipeFinder, recipeFormats } from '../recipes/recipes.ts';
import { sheetFinder } from './sheets.ts';

/** Formats that come from what a team says, and not from bytes. */
export function isDescribed(format: string): boolean {
  return format === 'recipe' || format.startsWith('sheet-');
}

/** The format that a team’s recipes and sheets give a file; null where they say nothing of it. Recipes go first. */
export function describedFormat(
  recipes: readonly PlacementRecipe[],
  sheets: readonly KeptSheet[],
): (path: string, known: string) => FormatName | null {
  const recipeFor = recipeFinder(recipes);
  const sheetFor = sheetFinder(sheets);
  const takesRecipes = new Set([...recipeFormats, 'sheet-map', 'sheet-table']);
  return (path, known) =>
    takesRecipes.has(known) && recipeFor(path) ? 'recipe' : (sheetFor(path)?.format ?? null);
}
