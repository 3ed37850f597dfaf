import { z } from 'zod';
import { factsSchema } from './facts.ts';
import { hashSchema, kindSchema, statusSchema } from './kinds.ts';

/** One line of `worvel diff --json`; null where there is none. */
export const findingLineSchema = z.object({
  status: statusSchema,
  kind: kindSchema,
  path: z.string(),
  oldPath: z.string().nullable(),
  size: z.number().nullable(),
  oldSize: z.number().nullable(),
  hash: hashSchema.nullable(),
  oldHash: hashSchema.nullable(),
});
export type FindingLine = z.infer<typeof findingLineSchema>;

export const summarySchema = z.object({
  added: z.number(),
  removed: z.number(),
  changed: z.number(),
  moved: z.number(),
  copied: z.number(),
  repacked: z.number(),
  unchanged: z.number(),
  /** Paths of which nothing is said, since one of the builds leaves them out. */
  leftOut: z.number(),
});
export type Summary = z.infer<typeof summarySchema>;

export const markSchema = z.enum(['kept', 'aside']);
export type Mark = z.infer<typeof markSchema>;

export const findingSchema = findingLineSchema.extend({
  format: z.string(),
  evidence: z.string(),
  /** Facts of the newer and of the older content. Sounds come without their envelope here: a list would carry thousands. */
  facts: factsSchema.nullable(),
  oldFacts: factsSchema.nullable(),
  hasPreview: z.boolean(),
  hasOldPreview: z.boolean(),
  mark: markSchema.nullable(),
  hasNote: z.boolean(),
});
export type Finding = z.infer<typeof findingSchema>;

export const sortSchema = z.enum(['path', 'size', 'status', 'kind']);

export const findingsQuerySchema = z.object({
  channel: z.coerce.number().int(),
  from: z.string(),
  to: z.string(),
  status: z.string().default(''),
  kind: z.string().default(''),
  mark: z.enum(['', 'open', 'kept', 'aside']).default(''),
  text: z.string().default(''),
  sort: sortSchema.default('path'),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(200),
});
export type FindingsQuery = z.infer<typeof findingsQuerySchema>;

export const findingsPageSchema = z.object({
  summary: summarySchema,
  kinds: z.partialRecord(kindSchema, z.number()),
  marks: z.object({ open: z.number(), kept: z.number(), aside: z.number() }),
  total: z.number(),
  offset: z.number(),
  findings: z.array(findingSchema),
});
export type FindingsPage = z.infer<typeof findingsPageSchema>;

export const markRequestSchema = z.object({
  channel: z.number().int(),
  from: z.string(),
  to: z.string(),
  path: z.string(),
  mark: markSchema.nullable(),
});
