import * as z from 'zod';
import { comparedSchema } from './comparisons.ts';
import { boundsSchema, factsSchema, placementSchema } from './facts.ts';
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

/** Figures that lists show, and that a search can ask for. */
export const figureFieldSchema = z.enum([
  'size',
  'triangles',
  'vertices',
  'bones',
  'width',
  'height',
  'seconds',
  'placements',
  'lines',
  'values',
  'glyphs',
]);

export const listedAssetSchema = assetRowSchema.extend({
  figures: z.partialRecord(figureFieldSchema, z.number()),
  /** Label of the build that had something at the path first. */
  firstSeen: z.string(),
  /** Against the build before. */
  change: z.enum(['new', 'changed']).nullable(),
});
export type ListedAsset = z.infer<typeof listedAssetSchema>;

/** One line of `worvel search --json`. */
export const searchHitSchema = assetRowSchema.pick({
  path: true,
  build: true,
  kind: true,
  size: true,
  hash: true,
});
export type SearchHit = z.infer<typeof searchHitSchema>;

export const folderCountsSchema = z.object({
  files: z.number(),
  bytes: z.number(),
  /** Against the build before. */
  fresh: z.number(),
  changed: z.number(),
  kinds: z.partialRecord(kindSchema, z.number()),
  skeletons: z.number(),
});
export type FolderCounts = z.infer<typeof folderCountsSchema>;

export const folderSchema = z.object({
  path: z.string(),
  folders: z.array(
    z.object({
      name: z.string(),
      path: z.string(),
      isContainer: z.boolean(),
      counts: folderCountsSchema,
    }),
  ),
  /** Of the folder itself with all below it. */
  counts: folderCountsSchema,
  assets: z.array(listedAssetSchema),
  total: z.number(),
});
export type Folder = z.infer<typeof folderSchema>;

export const assetListSchema = z.object({
  total: z.number(),
  /** Whether there are more than were counted. */
  isCut: z.boolean(),
  /** Each with why it was found. */
  assets: z.array(listedAssetSchema.extend({ why: z.string() })),
});

export const historyStepSchema = z.object({
  build: z.string(),
  sequence: z.number(),
  what: z.enum(['appeared', 'changed', 'repacked', 'vanished', 'came back']),
  hash: hashSchema.nullable(),
  size: z.number().nullable(),
  format: z.string(),
  hasPreview: z.boolean(),
  facts: factsSchema.nullable(),
  /** How it differs from the step before, in a sentence. */
  evidence: z.string(),
  /** Label of an earlier build that had the same content, where another one lay between. */
  sameAs: z.string().nullable(),
});
export type HistoryStep = z.infer<typeof historyStepSchema>;

export const assetSchema = assetRowSchema.extend({
  facts: factsSchema.nullable(),
  /** Why it could not be read, in a sentence. */
  problem: z.string().nullable(),
  identifiedByExtension: z.boolean(),
  /** Whether its facts are left to be read. */
  isUnread: z.boolean(),
  history: z.array(historyStepSchema),
  elsewhere: z.array(z.string()),
});
export type Asset = z.infer<typeof assetSchema>;

/** Two states beside each other, with what comparing them found out. */
export const comparedStatesSchema = comparedSchema.extend({ old: assetSchema, new: assetSchema });
export type ComparedStates = z.infer<typeof comparedStatesSchema>;

/** What a model costs that is placed on a map, as far as its facts say. */
export const modelCostSchema = z.object({
  /** Of its file; null where that is not there. */
  bytes: z.number().nullable(),
  triangles: z.number(),
  vertices: z.number(),
  materials: z.number(),
  textures: z.number(),
  bounds: boundsSchema.nullable(),
});
export type ModelCost = z.infer<typeof modelCostSchema>;

export const mapSceneSchema = z.object({
  placements: z.array(placementSchema),
  /** Model name as the map writes it, to the path of the asset in this build; null where the build lacks it. */
  models: z.record(z.string(), z.string().nullable()),
  /** By the path of the asset; nothing of those that are not read yet. */
  costs: z.record(z.string(), modelCostSchema).default({}),
  /** Paths of pictures that may be its ground, the likeliest first. */
  grounds: z
    .object({ heights: z.array(z.string()), pictures: z.array(z.string()) })
    .default({ heights: [], pictures: [] }),
});
export type MapScene = z.infer<typeof mapSceneSchema>;

export const textPageSchema = z.object({ text: z.string(), truncated: z.boolean() });
