import { z } from 'zod';
import { intakeResultSchema } from './builds.ts';

export const progressSchema = z.object({
  phase: z.enum(['finding files', 'reading files', 'reading facts', 'writing the build']),
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

export const jobStateSchema = z.enum(['waiting', 'running', 'stopped', 'done', 'failed']);
export type JobState = z.infer<typeof jobStateSchema>;

export const jobSchema = z.object({
  id: z.number().int(),
  state: jobStateSchema,
  title: z.string(),
  channel: z.string(),
  build: z.string(),
  source: z.string(),
  progress: progressSchema.nullable(),
  result: intakeResultSchema.nullable(),
  error: z.string().nullable(),
  createdAt: z.string(),
  finishedAt: z.string().nullable(),
});
export type Job = z.infer<typeof jobSchema>;
export const jobsSchema = z.array(jobSchema);
