import * as z from 'zod';

/** What fields, types and versions are called: letters, digits and _; what begins with _ is no result of its own. */
const word = z.string().regex(/^[A-Za-z_]\w*$/, 'must be a word of letters, digits and _');

/** Arithmetic over fields: `count * 12`, `header.kind == 'mesh'`. */
const expression = z.union([z.string().min(1).max(2000), z.number(), z.boolean()]);

/** A name alone, or a name with what it needs: `zlib`, `{ lzss: { window: 4096 } }`. */
const packingStep = z.union([
  z.string().max(40),
  z
    .record(z.string().max(40), z.record(word, z.union([expression, z.array(z.number()).max(4096)])))
    .refine((step) => Object.keys(step).length === 1, 'must name one packing'),
]);

const constant = z.union([
  z.string().max(4096),
  z.number(),
  z.array(z.number().int().min(0).max(255)).max(4096),
]);

export interface FieldOptions {
  /** A type as a field has it that has nothing else: `u16`, `entry[count]`. */
  type?: string | undefined;
  /** Fields of a structure that has no name. */
  fields?: Record<string, SheetField> | undefined;
  /** How many there are of it. */
  count?: z.infer<typeof expression> | undefined;
  /** `end` of what it lies in, or what is true of the last one. */
  until?: z.infer<typeof expression> | undefined;
  /** Whether the one that `until` is true of is part of the list. */
  keepLast?: boolean | undefined;
  /** How many bytes it has in all: what comes next begins after them. */
  size?: z.infer<typeof expression> | undefined;
  /** Where it lies, from the file's first byte; what comes next does not follow it. */
  at?: z.infer<typeof expression> | undefined;
  /** Bytes that it lies in, from their first one on: of another field, or of a sister file. */
  in?: z.infer<typeof expression> | undefined;
  if?: z.infer<typeof expression> | undefined;
  /** It begins at the next multiple of so many bytes. */
  align?: z.infer<typeof expression> | undefined;
  /** What it is in every file. */
  is?: z.infer<typeof constant> | undefined;
  /** What it must be, by other fields: a check sum, a size. */
  equals?: z.infer<typeof expression> | undefined;
  /** What its numbers are called. */
  values?: Record<string, string> | undefined;
  /** The parts of a number, by how many bits each has, from the lowest on; a minus before the number where the part has a sign. */
  bits?: Record<string, number> | undefined;
  /** `little`, `big`, or what says so. */
  endian?: z.infer<typeof expression> | undefined;
  encoding?: string | undefined;
  /** How its bytes are unpacked, step by step. */
  unpack?: z.infer<typeof packingStep>[] | undefined;
  /** What lies in the unpacked bytes. */
  as?: SheetField | undefined;
  /** Which of the cases it is. */
  switch?: z.infer<typeof expression> | undefined;
  cases?: Record<string, SheetField> | undefined;
  else?: SheetField | undefined;
  /** A field without bytes: what comes of others. */
  value?: z.infer<typeof expression> | undefined;
  since?: string | undefined;
  before?: string | undefined;
  remark?: string | undefined;
}
export type SheetField = string | FieldOptions;

export const sheetFieldSchema: z.ZodType<SheetField> = z.lazy(() =>
  z.union([z.string().min(1).max(400), fieldOptionsSchema]),
);

const fieldsSchema = z.record(word, sheetFieldSchema);
const versionName = z.string().trim().min(1).max(40);

const fieldOptionsSchema: z.ZodType<FieldOptions> = z.strictObject({
  type: z.string().min(1).max(400).optional(),
  fields: fieldsSchema.optional(),
  count: expression.optional(),
  until: expression.optional(),
  keepLast: z.boolean().optional(),
  size: expression.optional(),
  at: expression.optional(),
  in: expression.optional(),
  if: expression.optional(),
  align: expression.optional(),
  is: constant.optional(),
  equals: expression.optional(),
  values: z.record(z.string().max(40), z.string().max(80)).optional(),
  bits: z.record(word, z.number().int().min(-53).max(53)).optional(),
  endian: expression.optional(),
  encoding: z.string().max(20).optional(),
  unpack: z.array(packingStep).max(16).optional(),
  as: sheetFieldSchema.optional(),
  switch: expression.optional(),
  cases: z.record(z.string().max(80), sheetFieldSchema).optional(),
  else: sheetFieldSchema.optional(),
  value: expression.optional(),
  since: versionName.optional(),
  before: versionName.optional(),
  remark: z.string().max(2000).optional(),
});

/** A line of a text file: what its words are. */
const wordsSchema = z.record(word, expression);

export interface LineRule {
  keyword?: string | undefined;
  words?: Record<string, z.infer<typeof expression>> | undefined;
  split?: string | undefined;
  block?: Record<string, LineRule> | undefined;
  end?: string | undefined;
  count?: z.infer<typeof expression> | undefined;
  single?: boolean | undefined;
  since?: string | undefined;
  before?: string | undefined;
}

const lineRule: z.ZodType<LineRule> = z.strictObject({
  /** The first word of such lines, or the first words; without one any line that no other rule fits. */
  keyword: z.string().min(1).max(80).optional(),
  /** The words after the keyword, in their order: `number`, `integer`, `word`, `rest`, `number[]`, `number(3)`. */
  words: wordsSchema.optional(),
  /** What words are split at once more: `/` of `1/2/3`. */
  split: z.string().min(1).max(4).optional(),
  /** The line opens a block, whose lines are read by these rules up to its end. */
  block: z.lazy(() => z.record(word, lineRule)).optional(),
  /** The word that a line must begin with to end the block; `}` where nobody says, after a line that ends with `{`. */
  end: z.string().min(1).max(80).optional(),
  /** The block has so many lines. */
  count: expression.optional(),
  /** There is one of it at most: its words are fields, and no list. */
  single: z.boolean().optional(),
  since: versionName.optional(),
  before: versionName.optional(),
});

const textSchema = z.strictObject({
  /** What begins a comment that goes to the end of its line. */
  comment: z.array(z.string().min(1).max(8)).max(8).default([]),
  quotes: z.string().max(4).default('"'),
  /** Characters beside spaces that part words. */
  separators: z.string().max(16).default(''),
  encoding: z.string().max(20).default('utf-8'),
  /** The first line, where it is always the same. */
  begins: z.string().max(400).optional(),
  lines: z.record(word, lineRule),
});
export type TextLayout = z.infer<typeof textSchema>;

/** One expression for all numbers of a thing, or one for each. */
const numbers = z.union([expression, z.array(expression).min(1).max(16)]);
const each = { each: expression.optional(), if: expression.optional() };

const pictureResult = z.strictObject({
  width: expression,
  height: expression,
  /** A pixel format by its name, or what says it. */
  format: expression,
  pixels: expression,
  palette: z.strictObject({ colours: expression, format: expression }).optional(),
  /** Of a pixel, where it is a number of a palette. */
  indexBits: expression.optional(),
  /** Bytes from a row to the next. */
  rowBytes: expression.optional(),
  rows: z.union([z.enum(['down', 'up']), expression]).default('down'),
  /** Where channels of a result come from: `bgra`, `rrrg`, `rgb1`. */
  swizzle: z
    .string()
    .regex(/^[rgba01]{4}$/)
    .optional(),
  /** Pixels (or blocks) lie tile by tile. */
  tiles: z.strictObject({ width: expression, height: expression }).optional(),
  /** Pixels (or blocks) lie in the order of a Z curve, within the picture or within a tile. */
  morton: z.boolean().optional(),
  levels: expression.default(1),
  layers: expression.default(1),
  faces: expression.default(1),
  frames: expression.default(1),
  /** Which lie together: all levels of a layer, or all layers of a level. */
  order: z.enum(['layers', 'levels']).default('layers'),
  colours: z.enum(['srgb', 'linear', 'unsaid']).default('unsaid'),
});
export type PictureResult = z.infer<typeof pictureResult>;

const soundResult = z.strictObject({
  rate: expression,
  channels: expression.default(1),
  samples: expression,
  /** `pcm`, `float`, `a-law`, `mu-law`, `ima-adpcm`, `ms-adpcm`, or what says it. */
  coding: expression.default('pcm'),
  bits: expression.default(16),
  endian: expression.default('little'),
  signed: expression.optional(),
  /** Of ADPCM: bytes of a block of all channels. */
  blockBytes: expression.optional(),
  loops: z.strictObject({ ...each, start: expression, end: expression }).optional(),
});
export type SoundResult = z.infer<typeof soundResult>;

const partResult = z.strictObject({
  ...each,
  name: expression.optional(),
  positions: numbers,
  normals: numbers.optional(),
  uvs: z.array(numbers).max(4).optional(),
  colours: numbers.optional(),
  joints: numbers.optional(),
  weights: numbers.optional(),
  indices: expression.optional(),
  /** What the indices, or the vertices in their order, are. */
  shapes: z.enum(['triangles', 'strip', 'fan', 'polygons', 'points']).default('triangles'),
  /** Of polygons: how many corners each has. */
  corners: expression.optional(),
  /** Number or name of its material. */
  material: expression.optional(),
  /** Number of its level of detail: those above 0 are named so. */
  level: expression.optional(),
});

const boneResult = z.strictObject({
  each: expression,
  name: expression,
  /** Number of the bone that it hangs on, -1 for none, or its name. */
  parent: expression,
  position: numbers.optional(),
  /** A quaternion, x y z w. */
  rotation: numbers.optional(),
  scale: numbers.optional(),
  /** Sixteen numbers, column after column, in place of the three. */
  matrix: numbers.optional(),
  /** Whether these are within the parent, or of the whole model. */
  space: z.enum(['parent', 'model']).default('parent'),
});

const clipResult = z.strictObject({
  ...each,
  name: expression,
  /** Lists of the tracks: each moves one bone. */
  tracks: z.strictObject({
    ...each,
    bone: expression,
    /** In seconds; or samples a second. */
    times: expression.optional(),
    rate: expression.optional(),
    positions: numbers.optional(),
    rotations: numbers.optional(),
    scales: numbers.optional(),
  }),
});

const modelResult = z.strictObject({
  parts: z.array(partResult).min(0).max(16),
  materials: z
    .strictObject({
      each: expression,
      name: expression,
      colour: numbers.optional(),
      texture: expression.optional(),
      normalTexture: expression.optional(),
      emissiveTexture: expression.optional(),
    })
    .optional(),
  bones: boneResult.optional(),
  clips: clipResult.optional(),
  /** Metres to one unit; nothing where nobody knows. */
  metresPerUnit: expression.optional(),
  up: z.enum(['Y', 'Z', '-Z']).default('Y'),
  /** Corners go round the other way than glTF's. */
  clockwise: z.boolean().optional(),
  /** V counts from below. */
  uvFromBelow: z.boolean().optional(),
});
export type ModelResult = z.infer<typeof modelResult>;

const entriesResult = z.strictObject({
  ...each,
  name: expression,
  /** Its packed bytes; or where they lie. */
  data: expression.optional(),
  offset: expression.optional(),
  size: expression.optional(),
  unpack: z.array(packingStep).max(16).optional(),
});
export type EntriesResult = z.infer<typeof entriesResult>;

const tableResult = z.strictObject({ ...each, columns: z.record(z.string().min(1).max(120), expression) });
export type TableResult = z.infer<typeof tableResult>;

const placementsResult = z.strictObject({
  ...each,
  model: expression,
  name: expression.optional(),
  class: expression.optional(),
  position: numbers,
  rotation: numbers.optional(),
  scale: numbers.optional(),
  metresPerUnit: expression.optional(),
  up: z.enum(['Y', 'Z']).default('Y'),
});
export type PlacementsResult = z.infer<typeof placementsResult>;

/** What comes out of a file: one of the kinds, and what it says of other files. */
export const sheetResultSchema = z.strictObject({
  picture: pictureResult.optional(),
  sound: soundResult.optional(),
  model: modelResult.optional(),
  entries: entriesResult.optional(),
  table: tableResult.optional(),
  placements: placementsResult.optional(),
  mentions: z
    .array(z.strictObject({ ...each, path: expression }))
    .max(16)
    .optional(),
});
export type SheetResult = z.infer<typeof sheetResultSchema>;

/** How files of one format are built, in one or several versions of it, and what comes out of them. */
export const formatSheetSchema = z.strictObject({
  /** What the format is called. */
  sheet: z.string().trim().min(1).max(80),
  /** Of this language. */
  language: z.literal(1),
  author: z.string().max(120).optional(),
  remarks: z.string().max(20_000).optional(),
  /** Which files it is for: patterns over paths. */
  files: z.union([z.string().min(1).max(400), z.array(z.string().min(1).max(400)).min(1).max(40)]),
  /** Versions of the format, the oldest first. */
  versions: z.array(versionName).min(1).max(64).optional(),
  endian: z.enum(['little', 'big']).default('little'),
  encoding: z.string().max(20).default('utf-8'),
  /** Structures, or other names of types. */
  types: z.record(word, z.union([z.string().min(1).max(400), fieldsSchema])).optional(),
  /** Fields of a binary file, from its first byte on. */
  root: fieldsSchema.optional(),
  /** Or lines of a text file. */
  text: textSchema.optional(),
  result: sheetResultSchema.default({}),
});
export type FormatSheet = z.infer<typeof formatSheetSchema>;
export type SheetExpression = z.infer<typeof expression>;
export type SheetNumbers = z.infer<typeof numbers>;
export type SheetStep = z.infer<typeof packingStep>;

/** The same as JSON Schema (draft 2020-12), for editors and other programs. */
export function sheetJsonSchema(): object {
  return z.toJSONSchema(formatSheetSchema, { io: 'input' });
}
