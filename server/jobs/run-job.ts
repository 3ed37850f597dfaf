import { availableParallelism } from 'node:os';
import type { JobKind, Progress } from '../../contract/work.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import { openPool, type DatabaseAddress, type Pool } from '../platform/database/pool.ts';
import { parseColumn, selectOne } from '../platform/database/rows.ts';
import { NotFoundError, messageOf } from '../platform/plain-error.ts';
import { openStore } from '../store/content-store.ts';
import type { JobContext, JobDefinition, JobResult } from './define-job.ts';
import { JobLease } from './job-lease.ts';
import { finishJob } from './queue.ts';
import { StoppedError } from './stop.ts';

export interface RunOptions<Services> {
  jobId: number;
  /** Who holds the job. */
  owner: string;
  address: DatabaseAddress;
  folder: DataFolder;
  services: Services;
  /** Aborted when this process is to end. */
  signal: AbortSignal;
  onProgress?: ((progress: Progress) => void) | undefined;
}

interface JobRow {
  kind: JobKind;
  buildId: number | null;
  subject: string;
  threads: number | null;
  params: unknown;
}

/** Finds what a kind of job does. @throws RangeError for a kind that nobody defined */
export type FindDefinition<Services> = (kind: JobKind) => JobDefinition<unknown, Services>;

/**
 * Carries out a job that this process holds: gives it connections, holds its lease and tells its progress. Writing down how
 * it ended is left to the caller.
 * @throws StoppedError when somebody asked for it, and whatever the job throws
 */
export async function runJob<Services>(
  definitionOf: FindDefinition<Services>,
  options: RunOptions<Services>,
): Promise<JobResult> {
  const { jobId, owner, address, folder, services } = options;
  const pool = openPool(address, 4);
  const store = openStore(pool, folder.store);
  const lease = new JobLease(pool, options);
  try {
    const row = await findRow(pool, jobId);
    const definition = definitionOf(row.kind);
    const params: unknown = definition.params.parse(parseColumn(row.params));
    const context: JobContext<unknown, Services> = {
      jobId,
      owner,
      address,
      folder,
      store,
      services,
      params,
      pool,
      buildId: row.buildId,
      subject: row.subject,
      threads: row.threads ?? availableParallelism(),
      signal: lease.signal,
      meter: lease.meter,
      count: (files, bytes) => lease.count(files, bytes),
      reportProgress: () => lease.report(),
      runWithin: (innerId) =>
        runWithin(pool, definitionOf, {
          ...options,
          jobId: innerId,
          signal: lease.signal,
          onProgress: undefined,
        }),
    };
    lease.signal.throwIfAborted();
    const result = await definition.run(context);
    await lease.report();
    return result;
  } finally {
    lease.close();
    await store.close().finally(() => pool.end());
  }
}

/** Carries out a job and writes down how it ended. */
async function runWithin<Services>(
  pool: Pool,
  definitionOf: FindDefinition<Services>,
  options: RunOptions<Services>,
): Promise<JobResult> {
  try {
    const done = await runJob(definitionOf, options);
    await finishJob(pool, options.jobId, {
      state: 'done',
      result: done.result ?? null,
      report: done.report ?? null,
    });
    return done;
  } catch (error) {
    await finishJob(pool, options.jobId, {
      state: error instanceof StoppedError ? 'stopped' : 'failed',
      error: messageOf(error),
    });
    throw error;
  }
}

async function findRow(pool: Pool, jobId: number): Promise<JobRow> {
  const row = await selectOne<JobRow>(
    pool,
    'SELECT kind, build_id AS buildId, subject, threads, params FROM jobs WHERE id = ?',
    [jobId],
  );
  if (!row) throw new NotFoundError(`There is no job ${jobId}.`);
  return row;
}
