import * as z from 'zod';

/** Characters that a font has, as it is looked at. */
export const fontCharactersSchema = z.object({
  /** First and last code point of each run, in order. */
  runs: z.array(z.tuple([z.number().int(), z.number().int()])),
  total: z.number().int(),
});
export type FontCharacters = z.infer<typeof fontCharactersSchema>;
