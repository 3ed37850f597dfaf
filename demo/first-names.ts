import type { LexiconEntry } from '../contract/names.ts';
import { placementRecipeSchema, type PlacementRecipe } from '../contract/recipes.ts';

const entry = (
  part: string,
  role: LexiconEntry['role'],
  meaning: string,
  sinceBuild = '0.1',
): LexiconEntry => ({
  part,
  role,
  meaning,
  saidBy: 'the demo team',
  sinceBuild,
});

/** What the demo's team has found out of the names; the rest is left to be proposed. */
export const firstLexicon: readonly LexiconEntry[] = [
  entry('gru', 'code name', 'heron'),
  entry('lum', 'code name', 'lantern'),
  entry('fry', 'code name', 'ferry'),
  entry('rd', 'code name', 'reeds'),
  entry('lum_pier', 'code name', 'pier lantern'),
  entry('gru_white', 'code name', 'white heron', '0.2'),
  entry('l#', 'LOD', 'level of detail #'),
];

/** How the demo's table of buoys is written. */
export const firstRecipes: readonly PlacementRecipe[] = [
  placementRecipeSchema.parse({
    name: 'Buoys',
    files: 'buoys*.csv',
    form: 'csv',
    model: 'what',
    id: 'name',
    class: 'class',
    position: ['east_cm', 'north_cm', 'height_cm'],
    scale: ['size'],
    rotation: { sort: 'euler', fields: ['=0', '=0', 'heading'], order: 'XYZ', unit: 'degrees' },
    metresPerUnit: 0.01,
    up: 'Z',
  }),
];
