import type * as z from 'zod';
import type { IntakeResult } from '../../contract/builds.ts';
import type { JobKind, JobReport } from '../../contract/work.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { DatabaseAddress, Pool } from '../platform/database/pool.ts';
import type { ContentStore } from '../store/content-store.ts';
import type { ProgressMeter } from './progress-meter.ts';

/** What a job came to. */
export interface JobResult {
  result?: IntakeResult;
  report?: JobReport;
}

/** What a job is given while it runs. */
export interface JobContext<Params, Services> {
  jobId: number;
  /** The build that it is about; null where there is none, or none any more. */
  buildId: number | null;
  subject: string;
  params: Params;
  /** How many threads it may use. */
  threads: number;
  /** Connections of its own. */
  pool: Pool;
  address: DatabaseAddress;
  folder: DataFolder;
  /** Where contents are kept; what the job puts there is safe when it has ended. */
  store: ContentStore;
  /** Who runs it: jobs that it makes and runs itself are theirs too. */
  owner: string;
  /** What the process keeps between jobs: threads, readers. */
  services: Services;
  /** Aborted, with the reason, when the job is to stop. What was done so far stays, and it can be resumed. */
  signal: AbortSignal;
  /** The phase that it is in, and how much there is to do. */
  meter: ProgressMeter;
  /** Says how far it is. */
  count: (files: number, bytes: number) => void;
  /** Writes its progress down now, which otherwise happens twice a second. */
  reportProgress: () => Promise<void>;
  /** Runs another job, which was made as this owner's, within this one: it is stopped with it. */
  runWithin: (jobId: number) => Promise<JobResult>;
}

/**
 * One kind of job. `exclusive` ones run while no other job does, in any process: they free what others count on.
 * `params` is the schema of what `addJob` wrote down for it.
 */
export interface JobDefinition<Params, Services> {
  kind: JobKind;
  params: z.ZodType<Params>;
  exclusive: boolean;
  run(context: JobContext<Params, Services>): Promise<JobResult>;
}

export function defineJob<Params, Services = unknown>(
  definition: Omit<JobDefinition<Params, Services>, 'exclusive'> & { exclusive?: boolean },
): JobDefinition<Params, Services> {
  return { ...definition, exclusive: definition.exclusive ?? false };
}
