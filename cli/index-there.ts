import { setTimeout as sleep } from 'node:timers/promises';
import type { IntakeRequest, IntakeResult } from '../contract/builds.ts';
import { jobSchema, type Job, type Progress } from '../contract/work.ts';
import { PlainError } from '../server/plain-error.ts';
import { askJson } from './session.ts';

const lookMs = 30;

/**
 * Has the server that runs on the data folder index, and follows it: its threads are warm, and its findings ready when
 * it is done. Ctrl-C stops the job.
 */
export async function indexThere(
  server: string,
  request: IntakeRequest,
  onProgress: (progress: Progress) => void,
): Promise<IntakeResult> {
  let isToStop = false;
  const onSignal = (): void => void (isToStop = true);
  process.on('SIGINT', onSignal).on('SIGTERM', onSignal);
  try {
    let job = jobSchema.parse(await askJson(`${server}/api/intake`, request));
    let told = '';
    let isStopping = false;
    while (job.state === 'waiting' || job.state === 'running') {
      await sleep(lookMs);
      if (isToStop && !isStopping) {
        isStopping = true;
        await askJson(`${server}/api/work/${job.id}/stop`, {});
      }
      job = await lookAgain(server, job);
      const progress = JSON.stringify(job.progress);
      if (job.progress && progress !== told) onProgress(job.progress);
      told = progress;
    }
    if (job.state === 'done' && job.result) return job.result;
    throw new PlainError(job.error ?? 'The work was stopped; it can be resumed.');
  } finally {
    process.off('SIGINT', onSignal).off('SIGTERM', onSignal);
  }
}

async function lookAgain(server: string, job: Job): Promise<Job> {
  try {
    return jobSchema.parse(await askJson(`${server}/api/work/${job.id}`));
  } catch (error) {
    if (error instanceof PlainError) throw error;
    throw new PlainError('The server that did this work has ended; its next start goes on with it.');
  }
}
