import * as z from 'zod';

/** A rectangle of a picture that a table gives a name. Pixels, from the upper left corner. */
export const spriteFrameSchema = z.object({
  name: z.string(),
  left: z.number(),
  top: z.number(),
  width: z.number(),
  height: z.number(),
  /** Whether it lies in the picture turned by a quarter. */
  isTurned: z.boolean(),
});
export type SpriteFrame = z.infer<typeof spriteFrameSchema>;

/** Tables of a build that cut a picture into frames. */
export const spriteTablesSchema = z.array(
  z.object({
    path: z.string(),
    why: z.string(),
    frames: z.array(spriteFrameSchema),
    /** Frames of the table that lie beyond the picture. */
    outside: z.number().int(),
  }),
);
export type SpriteTables = z.infer<typeof spriteTablesSchema>;
