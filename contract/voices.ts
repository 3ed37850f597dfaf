import * as z from 'zod';

/** Strings of a build that belong to a sound: what a voice says, by where it stands. */
export const spokenSchema = z.array(
  z.object({
    path: z.string(),
    key: z.string(),
    text: z.string(),
    language: z.string().nullable(),
  }),
);
export type SpokenStrings = z.infer<typeof spokenSchema>;
