import { z } from 'zod';
import { factsSchema, placementSchema } from './facts.ts';
import { hashSchema, kindSchema } from './kinds.ts';

export const assetRowSchema = z.object({
  path: z.string(),
  build: z.string(),
  kind: kindSchema,
  format: z.string(),
  size: z.number().nullable(),
  hash: hashSchema.nullable(),
  hasPreview: z.boolean(),
});
export type AssetRow = z.infer<typeof assetRowSchema>;

/** One line of `worvel search --json`. */
export const searchHitSchema = assetRowSchema.pick({
  path: true,
  build: true,
  kind: true,
  size: true,
  hash: true,
});
export type SearchHit = z.infer<typeof searchHitSchema>;

export const folderSchema = z.object({
  path: z.string(),
  folders: z.array(
    z.object({
      name: z.string(),
      path: z.string(),
      files: z.number(),
      bytes: z.number(),
      isContainer: z.boolean(),
    }),
  ),
  assets: z.array(assetRowSchema),
  total: z.number(),
});
export type Folder = z.infer<typeof folderSchema>;

export const assetListSchema = z.object({
  total: z.number(),
  /** Whether there are more than were counted. */
  isCut: z.boolean(),
  /** Each with why it was found. */
  assets: z.array(assetRowSchema.extend({ why: z.string() })),
});

export const historyStepSchema = z.object({
  build: z.string(),
  sequence: z.number(),
  what: z.enum(['appeared', 'changed', 'vanished', 'came back']),
  hash: hashSchema.nullable(),
  size: z.number().nullable(),
});
export type HistoryStep = z.infer<typeof historyStepSchema>;

export const assetSchema = assetRowSchema.extend({
  facts: factsSchema.nullable(),
  /** Why it could not be read, in a sentence. */
  problem: z.string().nullable(),
  identifiedByExtension: z.boolean(),
  history: z.array(historyStepSchema),
  elsewhere: z.array(z.string()),
});
export type Asset = z.infer<typeof assetSchema>;

export const mapSceneSchema = z.object({
  placements: z.array(placementSchema),
  /** Model name as the map writes it, to the path of the asset in this build; null where the build lacks it. */
  models: z.record(z.string(), z.string().nullable()),
});
export type MapScene = z.infer<typeof mapSceneSchema>;

export const textPageSchema = z.object({ text: z.string(), truncated: z.boolean() });
