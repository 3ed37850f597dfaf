import * as z from 'zod';
import { intakeResultSchema } from './builds.ts';

export const progressSchema = z.object({
  phase: z.enum([
    'finding files',
    'reading files',
    'reading facts',
    'writing the build',
    'fetching',
    'checking contents',
    'freeing space',
    'pairing what is alike',
    'opening containers',
    'comparing',
    'writing files',
    'backing up',
  ]),
  files: z.number(),
  /** Null until the source has been walked to its end. */
  totalFiles: z.number().nullable(),
  bytes: z.number(),
  totalBytes: z.number().nullable(),
  bytesPerSecond: z.number(),
  secondsLeft: z.number().nullable(),
  seconds: z.number(),
});
export type Progress = z.infer<typeof progressSchema>;

export const jobStateSchema = z.enum(['waiting', 'running', 'paused', 'stopped', 'done', 'failed']);
export type JobState = z.infer<typeof jobStateSchema>;

export const jobKindSchema = z.enum([
  'index',
  'unlock',
  'remove',
  'check',
  'follow',
  'recipes',
  'read',
  'evidence',
  'haul',
  'publish',
  'backup',
]);
export type JobKind = z.infer<typeof jobKindSchema>;

/** What came of a job that is not the indexing of a build. */
export const jobReportSchema = z.object({
  summary: z.string(),
  /** What is wrong, a line each; at most a thousand. */
  lines: z.array(z.string()),
});
export type JobReport = z.infer<typeof jobReportSchema>;

export const jobSchema = z.object({
  id: z.number().int(),
  kind: jobKindSchema,
  priority: z.number().int(),
  attempts: z.number().int(),
  /** What it is about, where that is no build. */
  subject: z.string(),
  state: jobStateSchema,
  title: z.string(),
  channel: z.string(),
  build: z.string(),
  source: z.string(),
  progress: progressSchema.nullable(),
  result: intakeResultSchema.nullable(),
  report: jobReportSchema.nullable(),
  /** Pairs of seconds since it began and bytes a second. */
  speeds: z.array(z.tuple([z.number(), z.number()])),
  error: z.string().nullable(),
  createdAt: z.string(),
  finishedAt: z.string().nullable(),
});
export type Job = z.infer<typeof jobSchema>;
export const jobsSchema = z.array(jobSchema);

/** What is told of jobs as they change. */
export const jobsEventSchema = z.object({
  /** Whether these are all: what was known before is forgotten. */
  isAll: z.boolean(),
  jobs: jobsSchema,
  /** Numbers of those that are not listed any more. */
  gone: z.array(z.number().int()),
});
export type JobsEvent = z.infer<typeof jobsEventSchema>;
