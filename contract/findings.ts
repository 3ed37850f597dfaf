import * as z from 'zod';
import { factsSchema } from './facts.ts';
import { comparisonSchema, natureSchema } from './comparisons.ts';
import { foldSchema } from './noise.ts';
import { passStateSchema, spanSchema } from './pass.ts';
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

/** One line of `worvel diff --evidence --json`. */
export const evidenceLineSchema = findingLineSchema.extend({
  evidence: z.string(),
  nature: natureSchema.nullable(),
  extent: z.number().nullable(),
  likeness: z
    .object({ score: z.number(), reason: z.string(), said: z.enum(['proposed', 'joined']) })
    .nullable(),
  /** Key of the rule that folds it away as noise. */
  foldedBy: z.string().nullable(),
  /** What was measured, as people read it; empty where nothing was compared. */
  figures: comparisonSchema.shape.figures.default([]),
  /** The same as numbers, with the units of their names: metres, seconds, decibels, pixels, shares from 0 to 1. */
  detail: comparisonSchema.shape.detail.default(null),
});
export type EvidenceLine = z.infer<typeof evidenceLineSchema>;

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

export const findingSchema = findingLineSchema.extend({
  format: z.string(),
  evidence: z.string(),
  /** Facts of the newer and of the older content. Sounds come without their envelope here: a list would carry thousands. */
  facts: factsSchema.nullable(),
  oldFacts: factsSchema.nullable(),
  hasPreview: z.boolean(),
  hasOldPreview: z.boolean(),
  oldFormat: z.string(),
  pass: passStateSchema,
  remarks: z.number(),
  hasNote: z.boolean(),
  /** How sure it is that the two paths are one thing, where that is told by likeness. */
  likeness: z
    .object({ score: z.number(), reason: z.string(), said: z.enum(['proposed', 'joined']) })
    .nullable(),
  /** In which way it differs, where the two were compared. */
  nature: natureSchema.nullable(),
  extent: z.number().nullable(),
  /** Hash of a picture of the difference. */
  differencePicture: hashSchema.nullable(),
  /** Whether the two can be compared beyond their facts. */
  isComparable: z.boolean(),
  /** The rule that folds it away. */
  foldedBy: z.string().nullable(),
  /** The span in which it was left open, where it is carried over from an earlier one. */
  carriedFrom: z.object({ from: z.string(), to: z.string() }).nullable(),
});
export type Finding = z.infer<typeof findingSchema>;

export const sortSchema = z.enum(['news', 'path', 'size', 'extent', 'status', 'kind']);

/** A folder that moved with all that was in it. */
export const folderMoveSchema = z.object({ from: z.string(), to: z.string(), files: z.number() });

export const findingsQuerySchema = z.object({
  channel: z.coerce.number().int(),
  from: z.string(),
  to: z.string(),
  status: z.string().default(''),
  kind: z.string().default(''),
  mark: z.enum(['', 'open', 'kept', 'aside', 'done', 'carried']).default(''),
  /** Empty for what is not folded away, `all` for everything, else the key of a rule: what that one hides. */
  noise: z.string().default(''),
  assignee: z.string().default(''),
  label: z.string().default(''),
  /** Findings in a folder and below. */
  folder: z.string().default(''),
  text: z.string().default(''),
  sort: sortSchema.default('path'),
  /** While facts come in: which state of them a list is made by, so that it stays in order; the newest where nobody says. */
  asOf: z.coerce.number().int().min(0).optional(),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(200),
});
export type FindingsQuery = z.infer<typeof findingsQuerySchema>;

/** As many findings as one step of a selection takes in. */
export const mostSelected = 20_000;

/** A stretch of the list of findings, by paths alone. */
export const findingPathsQuerySchema = findingsQuerySchema.extend({
  limit: z.coerce.number().int().min(1).max(mostSelected),
});
export type FindingPathsQuery = z.infer<typeof findingPathsQuerySchema>;
export const findingPathsSchema = z.object({ paths: z.array(z.string()) });

export const evidenceStateSchema = z.enum(['none', 'reading', 'running', 'done']);
export type EvidenceState = z.infer<typeof evidenceStateSchema>;

export const findingsPageSchema = z.object({
  summary: summarySchema,
  kinds: z.partialRecord(kindSchema, z.number()),
  /** Of what is not folded away. */
  marks: z.object({ open: z.number(), kept: z.number(), aside: z.number(), done: z.number() }),
  /** Findings of the span before that were left open. */
  carried: z.number(),
  /** The newest change of marks that this answer knows. */
  revision: z.number(),
  people: z.array(z.string()),
  labels: z.array(z.string()),
  folds: z.array(foldSchema),
  folderMoves: z.array(folderMoveSchema),
  /** How far comparing is; before it come the facts of both builds. */
  evidence: z.object({ state: evidenceStateSchema, job: z.number().nullable() }),
  /** The state of the facts by which these findings are told and ordered, and the newest one. */
  asOf: z.number(),
  newestFacts: z.number(),
  total: z.number(),
  offset: z.number(),
  findings: z.array(findingSchema),
});
export type FindingsPage = z.infer<typeof findingsPageSchema>;

/** Says that two paths are one thing, or that they are not. */
export const pairRequestSchema = spanSchema.extend({
  path: z.string(),
  oldPath: z.string(),
  said: z.enum(['joined', 'parted']),
});
