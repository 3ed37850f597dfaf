import * as z from 'zod';

/** An axis-aligned box in metres, Y up: xyz of the lowest and of the highest corner. */
export const boundsSchema = z.object({
  min: z.tuple([z.number(), z.number(), z.number()]),
  max: z.tuple([z.number(), z.number(), z.number()]),
});
export type Bounds = z.infer<typeof boundsSchema>;

/** The sheet of the title’s team that a file was read by, with the version of its format that fits; nothing of open formats. */
const readBy = { sheet: z.object({ name: z.string(), version: z.string() }).optional() };

export const pictureFactsSchema = z.object({
  kind: z.literal('picture'),
  ...readBy,
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

export const clipSchema = z.object({
  name: z.string(),
  /** From the first key to the last: a clip ends where its last key is (common practice, no published source). */
  seconds: z.number(),
  /** Keys a second where they are evenly spread, null where they are not. */
  rate: z.number().nullable().default(null),
  /** Bones and other nodes that it moves. */
  bones: z.number().int().default(0),
});
export type Clip = z.infer<typeof clipSchema>;

export const modelFactsSchema = z.object({
  kind: z.literal('model'),
  ...readBy,
  triangles: z.number().int(),
  vertices: z.number().int(),
  parts: z.number().int(),
  materials: z.number().int(),
  textures: z.number().int(),
  bones: z.number().int(),
  clips: z.array(clipSchema),
  boundsMetres: boundsSchema.nullable(),
  /** Files that the model names and the build lacks. */
  missing: z.array(z.string()),
  uvSets: z.number().int().default(0),
  hasColours: z.boolean().default(false),
  morphTargets: z.number().int().default(0),
  variants: z.array(z.string()).default([]),
  /** Times that meshes are placed by instancing, beyond once each. */
  instances: z.number().int().default(0),
  /** Unit and upward axis of the file, or that it says nothing of them. */
  units: z.string().default('metres, Y up'),
});

/** A file that moves bones and has no shape of its own. */
export const clipFactsSchema = z.object({
  kind: z.literal('clip'),
  ...readBy,
  bones: z.number().int(),
  clips: z.array(clipSchema),
  units: z.string().default(''),
});

export const soundFactsSchema = z.object({
  kind: z.literal('sound'),
  ...readBy,
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
  /** How its samples are packed: PCM, IMA ADPCM, Vorbis … */
  coding: z.string().default(''),
  /** Bits to a sample as stored, null where that says nothing. */
  bits: z.number().int().nullable().default(null),
  /** Marked places. */
  cues: z.array(z.object({ frame: z.number().int(), label: z.string() })).default([]),
  /** Of MIDI, which has events and no samples; `sampleRate` is 0 then, and `channels` the tracks that play. */
  notes: z.number().int().nullable().default(null),
  instruments: z.array(z.string()).default([]),
});

export const mapFactsSchema = z.object({
  kind: z.literal('map'),
  ...readBy,
  placements: z.number().int(),
  classes: z.record(z.string(), z.number().int()),
  models: z.array(z.string()),
  boundsMetres: boundsSchema.nullable(),
  /** Of a tile map: tiles across and down, pixels to a tile, layers, and how many tiles are set. */
  tiles: z
    .object({
      width: z.number().int(),
      height: z.number().int(),
      tileWidth: z.number().int(),
      tileHeight: z.number().int(),
      layers: z.number().int(),
      set: z.number().int(),
      orientation: z.string(),
      /** Of each layer, the lowest first; none of sets of tiles. */
      eachLayer: z
        .array(
          z.object({
            name: z.string(),
            /** Whether it is seen at first. */
            isVisible: z.boolean(),
            set: z.number().int(),
          }),
        )
        .default([]),
    })
    .nullable()
    .default(null),
  /** Name of the recipe that it was read by. */
  recipe: z.string().default(''),
});

export const textFactsSchema = z.object({
  kind: z.literal('text'),
  ...readBy,
  lines: z.number().int(),
  /** By its name in the WHATWG Encoding Standard. */
  encoding: z.string(),
  /** Number of values of a structured file, null for plain text. */
  values: z.number().int().nullable(),
  /** Code of the language that it or its path says it is in. */
  language: z.string().nullable().default(null),
  excerpt: z.string(),
});

export const fontFactsSchema = z.object({
  kind: z.literal('font'),
  family: z.string(),
  style: z.string(),
  fullName: z.string(),
  glyphs: z.number().int(),
  characters: z.number().int(),
  /** Ranges of Unicode that it has characters of, by their names, those with most first. */
  coverage: z.array(z.string()),
  unitsPerEm: z.number(),
  /** Axes along which it varies, by their tags. */
  axes: z.array(z.string()),
});

export const filmFactsSchema = z.object({
  kind: z.literal('film'),
  seconds: z.number(),
  container: z.string(),
  tracks: z.array(
    z.object({
      sort: z.enum(['video', 'audio', 'subtitle']),
      codec: z.string(),
      /** Pixels; null of what is heard. */
      width: z.number().nullable(),
      height: z.number().nullable(),
      framesPerSecond: z.number().nullable(),
      sampleRate: z.number().nullable(),
      channels: z.number().nullable(),
      language: z.string(),
    }),
  ),
});

export const factsSchema = z.discriminatedUnion('kind', [
  pictureFactsSchema,
  modelFactsSchema,
  clipFactsSchema,
  soundFactsSchema,
  mapFactsSchema,
  textFactsSchema,
  fontFactsSchema,
  filmFactsSchema,
]);
export type PictureFacts = z.infer<typeof pictureFactsSchema>;
export type ModelFacts = z.infer<typeof modelFactsSchema>;
export type ClipFacts = z.infer<typeof clipFactsSchema>;
export type SoundFacts = z.infer<typeof soundFactsSchema>;
export type MapFacts = z.infer<typeof mapFactsSchema>;
export type FontFacts = z.infer<typeof fontFactsSchema>;
export type FilmFacts = z.infer<typeof filmFactsSchema>;
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
  name: z.string().default(''),
  /** What it hangs on, or stands for: a point that the game looks up by name. */
  locator: z.string().default(''),
});
export type Placement = z.infer<typeof placementSchema>;

/** The placement tables of the invented game: JSON, with the placements under their own key. */
export const placementTableSchema = z.object({
  name: z.string().optional(),
  units: z.enum(['metres', 'centimetres']).default('metres'),
  placements: z.array(placementSchema),
});
export type PlacementTable = z.infer<typeof placementTableSchema>;
