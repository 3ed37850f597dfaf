import * as z from 'zod';

/** A place that somebody returns to. */
export const bookmarkSchema = z.object({
  id: z.number().int(),
  name: z.string(),
  /** The query of an address in the library, or of an asset: `path=…`, `text=…`. */
  place: z.string(),
});
export type Bookmark = z.infer<typeof bookmarkSchema>;

export const bookmarkDraftSchema = z.object({
  channel: z.number().int(),
  name: z.string().trim().min(1, 'A bookmark needs a name.').max(200),
  place: z.string().max(2000),
});

/** What is collected: some paths, all that a query finds, or all below a folder. */
export const collectSchema = z.object({
  channel: z.number().int(),
  build: z.string(),
  paths: z.array(z.string()).max(200_000).optional(),
  text: z.string().optional(),
  kind: z.string().optional(),
  folder: z.string().optional(),
  /** Into which haul; the one that was changed last where nothing is said. */
  haul: z.number().int().optional(),
});
export type Collect = z.infer<typeof collectSchema>;

export const collectedSchema = z.object({
  haul: z.string(),
  added: z.number().int(),
  total: z.number().int(),
});

/** Null takes all of them out. */
export const uncollectSchema = z.object({ paths: z.array(z.string()).max(200_000).nullable() });

export const pathListSchema = z.object({ paths: z.array(z.string()), isCut: z.boolean() });
