import type { IntakeRequest, IntakeResult } from '../contract/builds.ts';
import type { Job, Progress } from '../contract/work.ts';
import { createJob } from '../server/acquire/builds/index-jobs.ts';
import { Runner } from '../server/jobs/runner.ts';
import type { Session } from './with-database.ts';

/** Does a job of the queue in this process. @throws PlainError with the reason where it fails or is stopped */
export async function workHere(
  { pool, address, folder, signal }: Session,
  jobId: number,
  onProgress: (progress: Progress) => void,
): Promise<Job> {
  const report = (message: string): void => void process.stderr.write(`${message}\n`);
  const runner = new Runner(pool, { address, folder }, { report });
  try {
    return await runner.runOne(jobId, signal, onProgress);
  } finally {
    await runner.close();
  }
}

export async function indexHere(
  session: Session,
  request: IntakeRequest,
  onProgress: (progress: Progress) => void,
): Promise<IntakeResult> {
  const { result } = await workHere(session, await createJob(session.pool, request, null), onProgress);
  if (!result) throw new Error('indexHere: the job gave no result');
  return result;
}
