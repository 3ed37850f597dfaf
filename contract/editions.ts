import * as z from 'zod';
import { relationSchema } from './catalogue.ts';
import { kindSchema } from './kinds.ts';
import { noteStepsSchema } from './notes.ts';

/** An asset of an entry as an edition shows it. Addresses count from the root of the site. */
export const editionAssetSchema = z.object({
  path: z.string(),
  kind: kindSchema,
  format: z.string(),
  /** The newest build that has it, and the first. */
  build: z.string(),
  firstBuild: z.string(),
  bytes: z.number(),
  /** What it is, in a sentence. */
  facts: z.string(),
  preview: z.string().nullable(),
  /** In a form that browsers show; null where there is none. */
  shown: z.string().nullable(),
  /** Extremes of a sound in slices of time: low, high, low, high, … from −1 to 1. */
  envelope: z.array(z.number()).nullable(),
  loopSeconds: z.tuple([z.number(), z.number()]).nullable(),
  history: z.array(z.object({ build: z.string(), what: z.string() })),
  note: z.object({ body: z.string(), steps: noteStepsSchema }).nullable(),
});
export type EditionAsset = z.infer<typeof editionAssetSchema>;

/** An entry as an edition publishes it: `entries/<address>.json`. */
export const editionEntrySchema = z.object({
  id: z.number().int(),
  address: z.string(),
  channel: z.string(),
  name: z.string(),
  internalName: z.string(),
  names: z.array(z.object({ language: z.string(), name: z.string() })),
  aliases: z.array(z.string()),
  thing: z.string(),
  tags: z.array(z.string()),
  summary: z.string(),
  credits: z.string(),
  sources: z.string(),
  spoiler: z.boolean(),
  /** Its own statement; empty where the title's holds. */
  rights: z.string(),
  downloads: z.boolean(),
  relations: z.array(z.object({ as: relationSchema, address: z.string(), name: z.string() })),
  /** When somebody changed it last. */
  changedAt: z.string(),
  assets: z.array(editionAssetSchema),
});
export type EditionEntry = z.infer<typeof editionEntrySchema>;

/** What an asset's files are made of: it stays with the server. */
export const assetSourceSchema = z.object({
  hash: z.string(),
  previewHash: z.string().nullable(),
  /** Contents of other files that it is shown with. */
  resources: z.array(z.string()).default([]),
});
export type AssetSource = z.infer<typeof assetSourceSchema>;

/** One line of a kept state: what is published, and what its files are made of. */
export const keptEntrySchema = z.object({ entry: editionEntrySchema, sources: z.array(assetSourceSchema) });
export type KeptEntry = z.infer<typeof keptEntrySchema>;

/** A build as an edition tells of it. */
export const editionBuildSchema = z.object({
  channel: z.string(),
  label: z.string(),
  releasedAt: z.string(),
  /** Addresses of entries that came, changed or went with it. */
  added: z.array(z.string()),
  changed: z.array(z.string()),
  removed: z.array(z.string()),
});
export type EditionBuild = z.infer<typeof editionBuildSchema>;

/** `edition.json`: what an edition is, beside its entries. */
export const editionRecordSchema = z.object({
  worvelEdition: z.literal(1),
  title: z.string(),
  number: z.number().int(),
  publishedAt: z.string(),
  entries: z.number().int(),
  /** Sum of all that pages have in common: where it is the same, pages of the same entries are. */
  pages: z.string(),
});
export type EditionRecord = z.infer<typeof editionRecordSchema>;
