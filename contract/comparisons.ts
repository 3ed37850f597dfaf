import * as z from 'zod';
import { hashSchema, kindSchema } from './kinds.ts';

/**
 * In which way two contents differ. All but the last are told from what was decoded; `other` is a content that is really
 * another one.
 */
export const natureSchema = z.enum([
  /** Nothing that can be seen or heard. */
  'same',
  /** Packed otherwise with some loss. */
  'recompressed',
  'rescaled',
  'recoloured',
  'mirrored',
  'bordered',
  /** The same shape at another place, turned, or larger as a whole. */
  'placed otherwise',
  /** The same with numbers of fewer digits, or in another order. */
  'rewritten',
  'louder',
  'shifted',
  'trimmed',
  'filtered',
  'other',
]);
export type Nature = z.infer<typeof natureSchema>;

export const figureSchema = z.object({ name: z.string(), old: z.string(), new: z.string() });
export type Figure = z.infer<typeof figureSchema>;

const share = z.number().min(0).max(1);
const triple = z.tuple([z.number(), z.number(), z.number()]);

export const pictureDetailSchema = z.object({
  kind: z.literal('picture'),
  /** Of pixels that differ at all, and that a person would see to differ (a CIEDE2000 above 2). */
  differingShare: share,
  visibleShare: share,
  /** CIEDE2000 of those that differ. */
  meanDifference: z.number(),
  greatestDifference: z.number(),
  /** Mean SSIM of brightness, 1 for equal pictures; null where the sizes differ. */
  similarity: z.number().nullable(),
  /** Where, in pixels of the newer picture; the largest first. */
  boxes: z.array(z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() })),
  /** Of red, green, blue and alpha: share of pixels, and the mean step of those, in 255ths. */
  channels: z.array(z.object({ name: z.string(), share, mean: z.number() })),
  /** Between directions, where both are normal maps. */
  normalDegrees: z.object({ mean: z.number(), greatest: z.number() }).nullable(),
});

export const partStatusSchema = z.enum(['added', 'gone', 'changed', 'same']);

export const clipDetailSchema = z.object({
  name: z.string(),
  status: partStatusSchema,
  oldSeconds: z.number().nullable(),
  newSeconds: z.number().nullable(),
  /** How far the farthest bone is from where it was, which one, and when. */
  greatestMetres: z.number(),
  bone: z.string(),
  atSeconds: z.number(),
  /** What else differs, each where it differs most: degrees, a share of the size, a share of a morph target. */
  others: z.array(
    z.object({
      what: z.enum(['turned', 'scaled', 'morphed']),
      amount: z.number(),
      bone: z.string(),
      atSeconds: z.number(),
    }),
  ),
});
export type ClipDetail = z.infer<typeof clipDetailSchema>;

const nodeChangesSchema = z.object({
  added: z.array(z.string()),
  gone: z.array(z.string()),
  reparented: z.array(z.object({ bone: z.string(), from: z.string(), to: z.string() })),
  moved: z.array(z.object({ bone: z.string(), metres: z.number(), degrees: z.number() })),
  /** What is called otherwise and stands where it stood, below the same. */
  renamed: z.array(z.object({ from: z.string(), to: z.string() })).default([]),
});
export type NodeChanges = z.infer<typeof nodeChangesSchema>;

export const modelDetailSchema = z.object({
  kind: z.literal('model'),
  /** What its lengths are in: metres, or, where a file does not say its unit, units of its own. */
  lengths: z.enum(['metres', 'units']).default('metres'),
  surface: z
    .object({
      meanMetres: z.number(),
      greatestMetres: z.number(),
      /** Of the greatest, in the diagonal of the older model's bounds. */
      share: z.number(),
      at: triple,
      part: z.string(),
    })
    .nullable(),
  parts: z.array(
    z.object({
      name: z.string(),
      status: partStatusSchema,
      oldTriangles: z.number().nullable(),
      newTriangles: z.number().nullable(),
      greatestMetres: z.number().nullable(),
    }),
  ),
  bones: nodeChangesSchema,
  /** Nodes that neither are bones nor carry a shape: places to hang things on, lights, cameras. */
  nodes: nodeChangesSchema,
  /** How the older one is to be placed in order to lie on the newer one. */
  placed: z
    .object({
      scale: z.number(),
      offsetMetres: triple,
      isTurned: z.boolean(),
      /** The axis along which it is mirrored. */
      mirrored: z.enum(['X', 'Y', 'Z']).optional(),
    })
    .nullable(),
  clips: z.array(clipDetailSchema),
});
export type ModelDetail = z.infer<typeof modelDetailSchema>;

export const soundDetailSchema = z.object({
  kind: z.literal('sound'),
  /** Integrated loudness in LUFS and true peak in dBTP (ITU-R BS.1770); null of silence. */
  oldLoudness: z.number().nullable(),
  newLoudness: z.number().nullable(),
  oldPeak: z.number().nullable(),
  newPeak: z.number().nullable(),
  /** How much later the newer one begins. */
  shiftSeconds: z.number(),
  gainDecibels: z.number(),
  /** Of the patterns of loudness in bands, 1 for the same. */
  likeness: z.number(),
  /** Where they differ, in seconds of the newer one. */
  ranges: z.array(z.object({ from: z.number(), to: z.number() })),
});

export const placementChangeSchema = z.object({
  status: z.enum(['added', 'gone', 'moved', 'turned', 'scaled', 'swapped', 'changed']),
  id: z.string(),
  class: z.string(),
  model: z.string(),
  oldModel: z.string(),
  position: triple,
  oldPosition: triple,
  metres: z.number(),
  degrees: z.number(),
  scale: z.number(),
});
export type PlacementChange = z.infer<typeof placementChangeSchema>;

export const mapDetailSchema = z.object({
  kind: z.literal('map'),
  /** The first thousand; `total` counts all. */
  changes: z.array(placementChangeSchema),
  total: z.number(),
  /** By class, then by status. */
  classes: z.record(z.string(), z.record(z.string(), z.number())),
  firstModels: z.array(z.string()),
  goneModels: z.array(z.string()),
  /** Tiles of a tile map that were set otherwise, by layer. */
  tiles: z.array(z.object({ layer: z.string(), changed: z.number() })),
});
export type MapDetail = z.infer<typeof mapDetailSchema>;

export const valueChangeSchema = z.object({
  status: z.enum(['added', 'gone', 'changed', 'renamed', 'moved']),
  /** Where it stands; of what was renamed, under its newer name. */
  key: z.string(),
  /** As people read it: what is invisible is made visible. Names, of what was renamed. */
  old: z.string(),
  new: z.string(),
});
export type ValueChange = z.infer<typeof valueChangeSchema>;

export const textDetailSchema = z.object({
  kind: z.literal('text'),
  linesAdded: z.number(),
  linesGone: z.number(),
  wordsAdded: z.number(),
  wordsGone: z.number(),
  /** The first five hundred; `valuesTotal` counts all. Null where the text has no values. */
  values: z.array(valueChangeSchema).nullable(),
  valuesTotal: z.number(),
  language: z.string().nullable(),
  /** Keys whose value is empty. */
  untranslated: z.array(z.string()),
});
export type TextDetail = z.infer<typeof textDetailSchema>;

/** What reading two contents of one kind beside each other found out. */
export const comparisonSchema = z.object({
  kind: kindSchema,
  nature: natureSchema,
  /** How much of it: 0 nothing, 1 all of it. */
  extent: share,
  /** What a person would say. */
  sentence: z.string(),
  figures: z.array(figureSchema),
  detail: z
    .discriminatedUnion('kind', [
      pictureDetailSchema,
      modelDetailSchema,
      soundDetailSchema,
      mapDetailSchema,
      textDetailSchema,
    ])
    .nullable(),
});
export type Comparison = z.infer<typeof comparisonSchema>;

/** Two states that are put beside each other: of builds of one channel, at any two paths. */
export const statesQuerySchema = z.object({
  channel: z.coerce.number().int(),
  oldBuild: z.string(),
  oldPath: z.string(),
  newBuild: z.string(),
  newPath: z.string(),
});

/** A comparison as it is kept; `reason` says why there is none. */
export const comparedSchema = z.object({
  comparison: comparisonSchema.nullable(),
  reason: z.string().nullable(),
  /** Hash of its picture in the store. */
  picture: hashSchema.nullable(),
});
export type Compared = z.infer<typeof comparedSchema>;
