import * as z from 'zod';

const number = z.number().min(-1e9).max(1e9);
const triple = z.tuple([number, number, number]);
const name = z.string().max(500);

export const boneMaskSchema = z.object({
  branches: z.array(name).max(200).default([]),
  words: z.array(name).max(50).default([]),
  bones: z.array(name).max(1000).default([]),
});

/** A clip that is laid over those below it. */
export const layerSchema = z.object({
  /** File that it is in; empty for the model itself. */
  path: z.string().max(4096).default(''),
  clip: name,
  weight: z.number().min(0).max(1).default(1),
  /** What it moves of the bones. */
  moves: z
    .array(z.enum(['position', 'rotation', 'scale']))
    .max(3)
    .default(['position', 'rotation', 'scale']),
  mask: boneMaskSchema.default({ branches: [], words: [], bones: [] }),
});
export type Layer = z.infer<typeof layerSchema>;

/** Another asset that hangs on a bone or on a locator, at a place of its own there. */
export const propSchema = z.object({
  path: z.string().min(1).max(4096),
  /** Name of what it hangs on; empty for the model as a whole. */
  on: name.default(''),
  /** Metres along the axes of what it hangs on. */
  place: triple.default([0, 0, 0]),
  /** About x, then y, then z. */
  turnDegrees: triple.default([0, 0, 0]),
  scale: z.number().min(1e-6).max(1e6).default(1),
});
export type Prop = z.infer<typeof propSchema>;

/** A part that stands elsewhere than its file says: beside its own place, turn and size. */
export const movedPartSchema = z.object({
  part: name,
  place: triple.default([0, 0, 0]),
  turnDegrees: triple.default([0, 0, 0]),
  scale: z.number().min(1e-6).max(1e6).default(1),
});
export type MovedPart = z.infer<typeof movedPartSchema>;

/** How somebody set a model up. */
export const setUpSchema = z.object({
  layers: z.array(layerSchema).max(16).default([]),
  props: z.array(propSchema).max(64).default([]),
  /** Names of parts that are left out where it is taken out. */
  leftOut: z.array(name).max(2000).default([]),
  moved: z.array(movedPartSchema).max(2000).default([]),
  /** Sets of parts that somebody put together, by the names of these. */
  variants: z
    .array(z.object({ name: z.string().trim().min(1).max(120), parts: z.array(name).max(2000) }))
    .max(100)
    .default([]),
});
export type SetUp = z.infer<typeof setUpSchema>;

export const arrangementSchema = z.object({
  path: z.string().min(1).max(4096),
  name: z.string().trim().min(1, 'the name is empty').max(120),
  setUp: setUpSchema,
});
export type Arrangement = z.infer<typeof arrangementSchema>;
