import type { IntakeRequest, IntakeResult } from '../contract/builds.ts';
import type { JobKind, JobReport, Progress } from '../contract/work.ts';
import { CrewThreads } from '../server/ingest/crew-threads.ts';
import { finishWith } from '../server/jobs/finish-with.ts';
import { createJob } from '../server/ingest/index-jobs.ts';
import { ownerName } from '../server/platform/process-mark.ts';
import { runJob } from '../server/main/run-job.ts';
import type { Session } from './with-database.ts';

export interface WorkHere {
  kind: JobKind;
  /** Makes the job as this process's own, so that a server that starts meanwhile leaves it alone. */
  make: (owner: string) => Promise<number>;
  threads?: number | null;
  onProgress: (progress: Progress) => void;
}

/** Does a piece of work in this process. */
export async function workHere(
  { pool, address, folder, signal }: Session,
  { kind, make, threads, onProgress }: WorkHere,
): Promise<{ result: IntakeResult | null; report: JobReport | null }> {
  const owner = ownerName();
  const jobId = await make(owner);
  const { store, temporary } = folder;
  const crewThreads = new CrewThreads({ address, store, temporary }, 0);
  try {
    return await finishWith(pool, jobId, () =>
      runJob(kind, {
        address,
        folder,
        crewThreads,
        jobId,
        owner,
        threads: threads ?? null,
        onProgress,
        signal,
      }),
    );
  } finally {
    await crewThreads.close();
  }
}

export async function indexHere(
  session: Session,
  request: IntakeRequest,
  onProgress: (progress: Progress) => void,
): Promise<IntakeResult> {
  const { result } = await workHere(session, {
    kind: 'index',
    make: (owner) => createJob(session.pool, request, owner),
    threads: request.threads,
    onProgress,
  });
  if (!result) throw new Error('indexHere: the job gave no result');
  return result;
}
