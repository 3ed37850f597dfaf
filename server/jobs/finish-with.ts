import type { Pool } from '../platform/database/pool.ts';
import { messageOf } from '../platform/plain-error.ts';
import { finishJob, type JobOutcome } from './queue.ts';
import { StoppedError } from './stop.ts';

export type DoneOutcome = Extract<JobOutcome, { state: 'done' }>;

/** Carries out a job that this process holds, and writes down how it ended. */
export async function finishWith(
  pool: Pool,
  jobId: number,
  work: () => Promise<Pick<DoneOutcome, 'result' | 'report'>>,
): Promise<DoneOutcome> {
  try {
    const outcome: DoneOutcome = { state: 'done', ...(await work()) };
    await finishJob(pool, jobId, outcome);
    return outcome;
  } catch (error) {
    await finishJob(pool, jobId, {
      state: error instanceof StoppedError ? 'stopped' : 'failed',
      error: messageOf(error),
    });
    throw error;
  }
}
