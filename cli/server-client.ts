import { request } from 'node:http';
import { userInfo } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { failureSchema } from '../contract/failure.ts';
import { jobSchema, type Job, type Progress } from '../contract/work.ts';
import { personCookie } from '../server/people/person-cookie.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import type { Question } from './connection.ts';

const lookMs = 30;

/**
 * Sends a request by Node's own client: the global `fetch` takes longer to load than most answers take.
 */
export function sendRequest(
  url: string,
  { body, method }: Question = {},
): Promise<{ status: number; body: string }> {
  return new Promise((resolve, reject) => {
    const headers = { cookie: personCookie(userInfo().username) };
    // A connection of its own: one that is kept may be closed by the server just when it is used again.
    const options = { method: method ?? (body === undefined ? 'GET' : 'POST'), headers, agent: false };
    request(url, options, (answer) => {
      const pieces: Buffer[] = [];
      answer.on('data', (piece: Buffer) => pieces.push(piece));
      answer.on('end', () =>
        resolve({ status: answer.statusCode ?? 0, body: Buffer.concat(pieces).toString('utf8') }),
      );
      answer.on('error', reject);
    })
      .on('error', reject)
      .end(body === undefined ? undefined : JSON.stringify(body));
  });
}

/** Follows a job of a server to its end; Ctrl-C stops it. @throws PlainError when it fails or is stopped */
export async function followJob(
  server: string,
  job: Job,
  onProgress: (progress: Progress) => void,
): Promise<Job> {
  let isToStop = false;
  const onSignal = (): void => void (isToStop = true);
  process.on('SIGINT', onSignal).on('SIGTERM', onSignal);
  try {
    let shown = '';
    let isStopping = false;
    while (job.state === 'waiting' || job.state === 'running') {
      await sleep(lookMs);
      if (isToStop && !isStopping) {
        isStopping = true;
        await sendRequest(`${server}/api/work/${job.id}/stop`, { body: {} });
      }
      job = await readJob(server, job.id);
      const progress = JSON.stringify(job.progress);
      if (job.progress && progress !== shown) onProgress(job.progress);
      shown = progress;
    }
    if (job.state === 'done') return job;
    throw new PlainError(job.error ?? 'The work was stopped; it can be resumed.');
  } finally {
    process.off('SIGINT', onSignal).off('SIGTERM', onSignal);
  }
}

async function readJob(server: string, id: number): Promise<Job> {
  const { status, body } = await sendRequest(`${server}/api/work/${id}`).catch(() => {
    throw new PlainError('The server that did this work has ended; its next start goes on with it.');
  });
  const value: unknown = JSON.parse(body);
  if (status !== 200) throw new PlainError(failureSchema.parse(value).error);
  return jobSchema.parse(value);
}
