import { createHash } from 'node:crypto';
import { recipeFinder, readRecipes } from '../../library/recipes/recipes.ts';
import { readSheets, sheetFinder } from '../../library/formats/sheets.ts';
import type { StepOf } from '../../../contract/notes.ts';
import type { Queryable } from '../../platform/database/rows.ts';

type Described = Pick<StepOf<'describe'>, 'what' | 'name' | 'sha256'>;

/** What a title describes of its formats, each with the sum of its text. */
export async function listDescribed(database: Queryable, titleId: number): Promise<Described[]> {
  const { sheets } = await readSheets(database, titleId);
  const { recipes } = await readRecipes(database, titleId);
  return [
    ...sheets.map(({ name, text }) => ({ what: 'format sheet' as const, name, sha256: sumOf(text) })),
    ...recipes.map((recipe) => ({
      what: 'recipe' as const,
      name: recipe.name,
      sha256: sumOf(JSON.stringify(recipe)),
    })),
  ];
}

/** The sheets and the recipe by which a file is read, and the containers that it lies in. */
export async function describedBy(database: Queryable, titleId: number, path: string): Promise<Described[]> {
  const known = await listDescribed(database, titleId);
  const { sheets } = await readSheets(database, titleId);
  const { recipes } = await readRecipes(database, titleId);
  const [sheetFor, recipeFor] = [sheetFinder(sheets), recipeFinder(recipes)];
  const names = new Set(
    containersAnd(path).flatMap((one) => {
      const sheet = sheetFor(one)?.sheet.name;
      const recipe = recipeFor(one)?.name;
      return [
        ...(sheet === undefined ? [] : [`format sheet ${sheet}`]),
        ...(recipe === undefined ? [] : [`recipe ${recipe}`]),
      ];
    }),
  );
  return known.filter(({ what, name }) => names.has(`${what} ${name}`));
}

/** The containers that a path goes through, outermost first, and the path itself. */
export function containersAnd(path: string): string[] {
  const parts = path.split('!/');
  return parts.map((_, at) => parts.slice(0, at + 1).join('!/'));
}

function sumOf(text: string): string {
  return createHash('sha256').update(text).digest('hex');
}
