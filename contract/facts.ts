import { z } from 'zod';

/** An axis-aligned box in metres, Y up: xyz of the lowest and of the highest corner. */
export const boundsSchema = z.object({
  min: z.tuple([z.number(), z.number(), z.number()]),
  max: z.tuple([z.number(), z.number(), z.number()]),
});
export type Bounds = z.infer<typeof boundsSchema>;

export const pictureFactsSchema = z.object({
  kind: z.literal('picture'),
  /** Pixels. */
  width: z.number().int(),
  height: z.number().int(),
  channels: z.number().int(),
  hasAlpha: z.boolean(),
  bitsPerChannel: z.number().int(),
  frames: z.number().int(),
  colourSpace: z.string(),
  /** How its pixels are packed: BC7, RLE, palette … */
  encoding: z.string().default(''),
  levels: z.number().int().default(1),
  layers: z.number().int().default(1),
  /** 6 of a cube map. */
  faces: z.number().int().default(1),
  /** Slices of a volume. */
  depth: z.number().int().default(1),
});

export const modelFactsSchema = z.object({
  kind: z.literal('model'),
  triangles: z.number().int(),
  vertices: z.number().int(),
  parts: z.number().int(),
  materials: z.number().int(),
  textures: z.number().int(),
  bones: z.number().int(),
  clips: z.array(z.object({ name: z.string(), seconds: z.number() })),
  boundsMetres: boundsSchema.nullable(),
  /** Files that the model names and the build lacks. */
  missing: z.array(z.string()),
});

export const soundFactsSchema = z.object({
  kind: z.literal('sound'),
  seconds: z.number(),
  sampleRate: z.number(),
  channels: z.number().int(),
  /** Largest absolute sample, 0 to 1 (above 1 where a float format clips). */
  peak: z.number(),
  /** Sample frames, both ends included, as the RIFF `smpl` chunk counts them. */
  loops: z.array(z.object({ startFrame: z.number().int(), endFrame: z.number().int() })),
  /**
   * Extremes of the mixed-down signal in equal slices of time, low, high, low, high, …: signed bytes, 127 for 1, in
   * Base64. Ten thousand sounds as lists of numbers took most of the time and of the room that facts take.
   */
  envelope: z.string(),
});

export const mapFactsSchema = z.object({
  kind: z.literal('map'),
  placements: z.number().int(),
  classes: z.record(z.string(), z.number().int()),
  models: z.array(z.string()),
  boundsMetres: boundsSchema.nullable(),
});

export const textFactsSchema = z.object({
  kind: z.literal('text'),
  lines: z.number().int(),
  encoding: z.enum(['utf-8', 'utf-16le', 'utf-16be', 'windows-1252']),
  /** Number of values of a structured file, null for plain text. */
  values: z.number().int().nullable(),
  excerpt: z.string(),
});

export const factsSchema = z.discriminatedUnion('kind', [
  pictureFactsSchema,
  modelFactsSchema,
  soundFactsSchema,
  mapFactsSchema,
  textFactsSchema,
]);
export type PictureFacts = z.infer<typeof pictureFactsSchema>;
export type ModelFacts = z.infer<typeof modelFactsSchema>;
export type SoundFacts = z.infer<typeof soundFactsSchema>;
export type MapFacts = z.infer<typeof mapFactsSchema>;
export type TextFacts = z.infer<typeof textFactsSchema>;
export type Facts = z.infer<typeof factsSchema>;

const triple = z.tuple([z.number(), z.number(), z.number()]);

/** One thing put into a map. Metres, Y up; rotation is a unit quaternion xyzw. */
export const placementSchema = z.object({
  id: z.string(),
  model: z.string(),
  class: z.string().default('object'),
  position: triple,
  rotation: z.tuple([z.number(), z.number(), z.number(), z.number()]).default([0, 0, 0, 1]),
  scale: triple.default([1, 1, 1]),
});
export type Placement = z.infer<typeof placementSchema>;

/** The placement tables of the invented game: JSON, with the placements under their own key. */
export const placementTableSchema = z.object({
  name: z.string().optional(),
  units: z.enum(['metres', 'centimetres']).default('metres'),
  placements: z.array(placementSchema),
});
export type PlacementTable = z.infer<typeof placementTableSchema>;
