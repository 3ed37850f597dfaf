import * as z from 'zod';

/**
 * Where a value of a row stands: a dotted key (JSON), a column's name or number from 1 (CSV), `@attribute`, `element` or
 * `element/@attribute` (XML), `offset:type` (binary: u8 i8 u16 i16 u32 i32 f32 f64, or textN for N bytes). `=0` is a number of its own for every row. Empty for none.
 */
const selector = z.string().trim().max(200);

/** One selector for a value that has all of its numbers, or one for each number. */
const selectors = z.array(selector).max(4);

export const eulerOrderSchema = z.enum(['XYZ', 'XZY', 'YXZ', 'YZX', 'ZXY', 'ZYX']);

/** How a title's placement tables are written: which field is what. Written once, kept with the title. */
export const placementRecipeSchema = z.object({
  name: z.string().trim().min(1, 'A recipe needs a name.').max(80),
  /** Which files it is for: a glob over paths. */
  files: z.string().trim().min(1, 'A recipe needs a pattern of files.').max(400),
  form: z.enum(['json', 'csv', 'xml', 'binary']),
  /** Where the rows stand: a dotted key (JSON; `*` for each of a list or an object), elements with `/` (XML); empty for the root. */
  rows: z.string().trim().max(200).default(''),
  /** Of CSV; empty to find it out. */
  delimiter: z.string().max(3).default(''),
  binary: z
    .object({
      /** Bytes before the first row. */
      headBytes: z.number().int().min(0).max(1_000_000).default(0),
      /** Bytes from one row to the next. */
      rowBytes: z.number().int().min(1).max(100_000).default(64),
      /** `offset:type` of the number of rows; empty where they go to the end. */
      count: selector.default(''),
      isBigEndian: z.boolean().default(false),
    })
    .default({ headBytes: 0, rowBytes: 64, count: '', isBigEndian: false }),
  model: selector,
  id: selector.default(''),
  label: selector.default(''),
  class: selector.default(''),
  locator: selector.default(''),
  position: selectors,
  scale: selectors.default([]),
  rotation: z
    .object({
      sort: z.enum(['none', 'euler', 'quaternion']).default('none'),
      fields: selectors.default([]),
      /** Axes about which an Euler rotation turns, the first of them first; each turn is about the turned axes. */
      order: eulerOrderSchema.default('XYZ'),
      unit: z.enum(['degrees', 'radians']).default('degrees'),
      /** In which order a quaternion's numbers stand. */
      quaternion: z.enum(['xyzw', 'wxyz']).default('xyzw'),
    })
    .default({ sort: 'none', fields: [], order: 'XYZ', unit: 'degrees', quaternion: 'xyzw' }),
  /** Metres to one unit of position: 0.01 for centimetres. */
  metresPerUnit: z.number().positive().max(1e6).default(1),
  up: z.enum(['Y', 'Z']).default('Y'),
});
export type PlacementRecipe = z.infer<typeof placementRecipeSchema>;

export const recipesSchema = z.array(placementRecipeSchema).max(100);

/** A title's recipes, and which state of them this is: whoever saves others says which one they saw. */
export const recipesStateSchema = z.object({ recipes: recipesSchema, revision: z.string() });
export type RecipesState = z.infer<typeof recipesStateSchema>;

/** A recipe tried on a file. */
export const trialSchema = z.object({
  rows: z.number().int(),
  placements: z.number().int(),
  /** The first of them. */
  first: z.array(
    z.object({
      id: z.string(),
      model: z.string(),
      class: z.string(),
      name: z.string(),
      locator: z.string(),
      position: z.array(z.number()),
      rotation: z.array(z.number()),
      scale: z.array(z.number()),
    }),
  ),
  models: z.array(z.object({ model: z.string(), path: z.string().nullable() })),
  /** Rows that do not fit, and why. */
  faults: z.array(z.string()),
  /** Why nothing could be read at all. */
  error: z.string().nullable(),
  /** The beginning of the file, as it is read: what the selectors can name. */
  sample: z.string(),
  /** Files of the build that the pattern finds. */
  files: z.array(z.string()),
  fileCount: z.number().int(),
});
export type Trial = z.infer<typeof trialSchema>;
