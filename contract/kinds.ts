import * as z from 'zod';

/** What an asset is to a person. `clip`, `font` and `film` have no readers yet, but their names are told apart. */
export const kindSchema = z.enum([
  'picture',
  'model',
  'clip',
  'sound',
  'map',
  'text',
  'font',
  'film',
  'other',
]);
export type Kind = z.infer<typeof kindSchema>;

export const statusSchema = z.enum(['added', 'removed', 'changed', 'repacked', 'moved', 'copied']);
export type Status = z.infer<typeof statusSchema>;

/** BLAKE3-256 in lower-case hex. */
export const hashSchema = z.string().regex(/^[0-9a-f]{64}$/, 'expected a BLAKE3-256 hash: 64 hex digits');
