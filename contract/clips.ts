import * as z from 'zod';

/** A clip whose bones go with those of a model. */
export const fittingClipSchema = z.object({
  path: z.string(),
  clip: z.string(),
  /** Null where its file’s facts do not say it. */
  seconds: z.number().nullable(),
  /** Bones that it moves, and those of them that the model has. */
  moved: z.number().int(),
  matched: z.number().int(),
  isOfFamily: z.boolean(),
});
export type FittingClip = z.infer<typeof fittingClipSchema>;

/** The clips of a build that fit a model, those of its family first, then by the share of bones that it has. */
export const fittingClipsSchema = z.object({
  /** Bones of the model; 0 where it has none that are known. */
  bones: z.number().int(),
  clips: z.array(fittingClipSchema),
  /** More than are listed. */
  isCut: z.boolean(),
});
export type FittingClips = z.infer<typeof fittingClipsSchema>;
