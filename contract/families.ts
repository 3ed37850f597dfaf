import * as z from 'zod';
import { listedAssetSchema } from './assets.ts';

export const familyMemberSchema = listedAssetSchema.extend({
  level: z.number().nullable(),
  textureRole: z.string().nullable(),
  colourSpace: z.enum(['sRGB', 'linear']).nullable(),
  variants: z.array(z.string()),
  isFinest: z.boolean(),
  /** What a model is called without its level of detail, in lower case: those with the same are levels of one thing. */
  ladder: z.string().default(''),
  /** Why it is in. */
  reasons: z.array(z.string()),
});
export type FamilyMember = z.infer<typeof familyMemberSchema>;

/** The assets that make up one thing. */
export const familySchema = z.object({
  name: z.string(),
  /** What the lexicon says of the name. */
  meaning: z.string(),
  folder: z.string(),
  members: z.array(familyMemberSchema),
  total: z.number().int(),
});
export type Family = z.infer<typeof familySchema>;

export const familyListSchema = z.object({
  total: z.number().int(),
  families: z.array(
    z.object({
      name: z.string(),
      meaning: z.string(),
      folder: z.string(),
      files: z.number().int(),
      /** Number of members by kind. */
      kinds: z.record(z.string(), z.number().int()),
      /** The member that stands for it: its finest model, or its first. */
      face: listedAssetSchema,
    }),
  ),
});
export type FamilyList = z.infer<typeof familyListSchema>;

/** A file belongs with another one, or (null) to no family; `undo` takes back what was said of it. */
export const familyCorrectionSchema = z.object({
  paths: z.array(z.string()).min(1).max(5000),
  with: z.string().nullable(),
  undo: z.boolean().default(false),
});
