import * as z from 'zod';
import { factsSchema } from './facts.ts';
import { kindSchema } from './kinds.ts';

export const entryStateSchema = z.enum(['draft', 'published', 'withheld']);
export type EntryState = z.infer<typeof entryStateSchema>;

export const entryDraftSchema = z.object({
  channelId: z.number().int(),
  name: z.string().trim().min(1, 'an entry needs a name').max(200),
  /** What the game's own files call it. */
  internalName: z.string().trim().max(200).default(''),
  summary: z.string().trim().max(2000).default(''),
  credits: z.string().trim().max(500).default(''),
  spoiler: z.boolean().default(false),
  state: entryStateSchema.default('draft'),
  paths: z.array(z.string()).min(1, 'an entry needs an asset'),
});
export type EntryDraft = z.infer<typeof entryDraftSchema>;

export const entrySchema = entryDraftSchema.extend({
  id: z.number().int(),
  revision: z.number().int(),
  changedAt: z.string(),
  assets: z.array(
    z.object({
      path: z.string(),
      /** The newest build that holds it; null where no build does. */
      build: z.string().nullable(),
      firstBuild: z.string().nullable(),
      kind: kindSchema,
      format: z.string(),
      hash: z.string().nullable(),
      size: z.number().nullable(),
      hasPreview: z.boolean(),
      facts: factsSchema.nullable(),
      note: z.string(),
    }),
  ),
});
export type Entry = z.infer<typeof entrySchema>;
export const entriesSchema = z.array(entrySchema);

export const entrySaveSchema = entryDraftSchema.extend({ revision: z.number().int() });

export const rightsRequestSchema = z.object({ rights: z.string().trim().max(4000) });

export const publishResultSchema = z.object({ edition: z.number(), entries: z.number(), folder: z.string() });

/** What the published site's search loads: one document an entry. */
export const siteDocumentSchema = z.object({
  id: z.number(),
  slug: z.string(),
  name: z.string(),
  internalName: z.string(),
  summary: z.string(),
  kinds: z.string(),
  paths: z.string(),
  firstBuild: z.string(),
  picture: z.string(),
  spoiler: z.boolean(),
});
export type SiteDocument = z.infer<typeof siteDocumentSchema>;
