import * as z from 'zod';
import { kindSchema } from './kinds.ts';

export const linkRuleSchema = z.enum(['exact', 'extension', 'case', 'name', 'accepted']);
export type LinkRule = z.infer<typeof linkRuleSchema>;

/** One asset that another needs, or that needs it. */
export const reachedAssetSchema = z.object({
  path: z.string(),
  kind: kindSchema,
  /** Steps from the asset that was asked for. */
  depth: z.number().int(),
  /** Path of the asset by which it was reached. */
  via: z.string(),
  rule: linkRuleSchema,
  /** What is written there, and where. */
  text: z.string(),
  where: z.string(),
});
export type ReachedAsset = z.infer<typeof reachedAssetSchema>;

export const missingSchema = z.object({ text: z.string(), where: z.string() });

/** What an asset needs, and who needs it. */
export const referencesSchema = z.object({
  needs: z.array(reachedAssetSchema),
  neededBy: z.array(reachedAssetSchema),
  /** Whether there are more than these. */
  isCut: z.boolean(),
  missing: z.array(missingSchema),
});
export type References = z.infer<typeof referencesSchema>;

export const candidateSchema = z.object({
  path: z.string(),
  /** 0 to 1: how often such a one is the right one. */
  score: z.number(),
  /** Whether it is taken without being asked for. */
  isCertain: z.boolean(),
  reason: z.string(),
});
export type Candidate = z.infer<typeof candidateSchema>;

/** A thing that is named in a build and that nothing answers to, with what it may be. */
export const missingLinkSchema = z.object({
  from: z.string(),
  text: z.string(),
  where: z.string(),
  candidates: z.array(candidateSchema),
  /** Where it lay in another build, and the label of the last build that had it. */
  was: z.object({ path: z.string(), build: z.string() }).nullable(),
});
export type MissingLink = z.infer<typeof missingLinkSchema>;

export const missingLinksSchema = z.object({ total: z.number().int(), links: z.array(missingLinkSchema) });

export const unnamedSchema = z.object({
  total: z.number().int(),
  assets: z.array(z.object({ path: z.string(), kind: kindSchema, size: z.number().nullable() })),
});

export const acceptedLinkSchema = z.object({ from: z.string(), text: z.string(), target: z.string() });
export type AcceptedLink = z.infer<typeof acceptedLinkSchema>;

export const acceptLinksSchema = z.object({
  links: z.array(acceptedLinkSchema).max(50_000),
  /** Those that hold no longer. */
  drop: z
    .array(acceptedLinkSchema.pick({ from: true, text: true }))
    .max(50_000)
    .default([]),
});
