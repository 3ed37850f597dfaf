import * as z from 'zod';
import { foldSchema } from './noise.ts';
import { freshPartSchema } from './names.ts';
import { kindSchema, statusSchema } from './kinds.ts';
import { evidenceStateSchema, folderMoveSchema, summarySchema } from './findings.ts';

/** Something of an update that a team cares about, with what makes it so. */
export const newsItemSchema = z.object({
  path: z.string(),
  oldPath: z.string().nullable(),
  kind: kindSchema,
  status: statusSchema,
  evidence: z.string(),
  score: z.number(),
  /** Why it stands where it stands, with the points that each reason gives; they add up to the score. */
  reasons: z.array(z.object({ why: z.string(), points: z.number() })),
  hash: z.string().nullable(),
  format: z.string(),
  hasPreview: z.boolean(),
});
export type NewsItem = z.infer<typeof newsItemSchema>;

/** An archive whose own bytes changed. */
export const changedContainerSchema = z.object({
  path: z.string(),
  /** Findings in it, other than that something was repacked. */
  changed: z.number(),
  sentence: z.string(),
});
export type ChangedContainer = z.infer<typeof changedContainerSchema>;

export const newStringSchema = z.object({
  path: z.string(),
  language: z.string(),
  key: z.string(),
  value: z.string(),
  old: z.string().nullable(),
});
export type NewString = z.infer<typeof newStringSchema>;

export const newsSchema = z.object({
  title: z.string(),
  channel: z.string(),
  from: z.string(),
  to: z.string(),
  releasedAt: z.string(),
  summary: summarySchema,
  /** Findings that are not folded away, by kind and then by status. */
  kinds: z.partialRecord(kindSchema, z.partialRecord(statusSchema, z.number())),
  folds: z.array(foldSchema),
  folderMoves: z.array(folderMoveSchema),
  /** The first two hundred; `newsTotal` counts all that have a score. */
  news: z.array(newsItemSchema),
  newsTotal: z.number(),
  families: z.array(z.object({ name: z.string(), folder: z.string(), files: z.number(), face: z.string() })),
  freshParts: z.array(freshPartSchema),
  strings: z.array(newStringSchema),
  stringsTotal: z.number(),
  untranslated: z.number(),
  containers: z.array(changedContainerSchema),
  /** Size of each build of the channel; bytes and files. */
  builds: z.array(z.object({ label: z.string(), bytes: z.number(), files: z.number() })),
  /** Bytes by kind in the older and in the newer build. */
  growth: z.array(
    z.object({
      kind: kindSchema,
      oldBytes: z.number(),
      newBytes: z.number(),
      oldFiles: z.number(),
      newFiles: z.number(),
    }),
  ),
  evidence: evidenceStateSchema,
});
export type News = z.infer<typeof newsSchema>;
