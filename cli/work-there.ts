import { setTimeout as sleep } from 'node:timers/promises';
import { jobSchema, type Job, type Progress } from '../contract/work.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { askJson, type Question } from './session.ts';

const lookMs = 30;

/**
 * Has the server that runs on the data folder do a piece of work, and follows it: its threads are warm, and its findings
 * ready when it is done. Ctrl-C stops the job.
 * @param path of the address that makes the job
 */
export async function workThere(
  server: string,
  path: string,
  question: Question,
  onProgress: (progress: Progress) => void,
): Promise<Job> {
  return followJob(server, jobSchema.parse(await askJson(`${server}/api/${path}`, question)), onProgress);
}

/** Follows a job of a server to its end. @throws PlainError when it fails or is stopped */
export async function followJob(
  server: string,
  job: Job,
  onProgress: (progress: Progress) => void,
): Promise<Job> {
  let isToStop = false;
  const onSignal = (): void => void (isToStop = true);
  process.on('SIGINT', onSignal).on('SIGTERM', onSignal);
  try {
    let told = '';
    let isStopping = false;
    while (job.state === 'waiting' || job.state === 'running') {
      await sleep(lookMs);
      if (isToStop && !isStopping) {
        isStopping = true;
        await askJson(`${server}/api/work/${job.id}/stop`, { body: {} });
      }
      job = await lookAgain(server, job);
      const progress = JSON.stringify(job.progress);
      if (job.progress && progress !== told) onProgress(job.progress);
      told = progress;
    }
    if (job.state === 'done') return job;
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
