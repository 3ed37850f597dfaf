import type { IntakeRequest, IntakeResult } from '../contract/builds.ts';
import type { Progress } from '../contract/work.ts';
import { CrewThreads } from '../server/intake/crew-threads.ts';
import { runIndex } from '../server/intake/run-index.ts';
import { messageOf } from '../server/plain-error.ts';
import { createJob, finishJob, ownerName } from '../server/work/queue.ts';
import { StoppedError } from '../server/work/stop.ts';
import type { Session } from './with-database.ts';

/** Indexes in this process: makes the job as its own, so that a server that starts meanwhile leaves it alone. */
export async function indexHere(
  { pool, address, folder, signal }: Session,
  request: IntakeRequest,
  onProgress: (progress: Progress) => void,
): Promise<IntakeResult> {
  const owner = ownerName();
  const jobId = await createJob(pool, request, owner);
  const { store, temporary } = folder;
  const crewThreads = new CrewThreads({ address, store, temporary }, 0);
  const { threads } = request;
  try {
    const result = await runIndex({
      address,
      folder,
      crewThreads,
      jobId,
      owner,
      threads,
      onProgress,
      signal,
    });
    await finishJob(pool, jobId, { state: 'done', result });
    return result;
  } catch (error) {
    await finishJob(pool, jobId, {
      state: error instanceof StoppedError ? 'stopped' : 'failed',
      error: messageOf(error),
    });
    throw error;
  } finally {
    await crewThreads.close();
  }
}
