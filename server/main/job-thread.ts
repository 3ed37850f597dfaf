import { parentPort, workerData } from 'node:worker_threads';
import type { DataFolder } from '../platform/data-folder.ts';
import type { DatabaseAddress } from '../platform/database/pool.ts';
import { CrewThreads } from '../ingest/crew-threads.ts';
import { messageOf } from '../platform/plain-error.ts';
import type { ClaimedJob, JobOutcome } from '../jobs/queue.ts';
import { runJob } from './run-job.ts';
import { StoppedError } from '../jobs/stop.ts';

export interface JobThreadData {
  address: DatabaseAddress;
  folder: DataFolder;
}

export type ToJobThread = { type: 'run'; job: ClaimedJob; owner: string } | { type: 'stop' };

const keepMs = 5 * 60_000;

/** A thread that carries out the server's jobs, one at a time, so that the server's own loop stays free. */
const port = parentPort;
if (!port) throw new Error('job-thread: not started as a worker thread');
const { address, folder } = workerData as JobThreadData;
const { store, temporary } = folder;
const crewThreads = new CrewThreads({ address, store, temporary }, keepMs);
let stop = new AbortController();

port.on('message', (message: ToJobThread) => {
  if (message.type === 'stop') {
    stop.abort();
    return;
  }
  stop = new AbortController();
  void run(message).then((outcome) => port.postMessage(outcome));
});

async function run({ job, owner }: Extract<ToJobThread, { type: 'run' }>): Promise<JobOutcome> {
  try {
    return await runJob(job.kind, {
      address,
      folder,
      crewThreads,
      owner,
      jobId: job.id,
      threads: job.threads,
      signal: stop.signal,
    });
  } catch (error) {
    return { state: error instanceof StoppedError ? 'stopped' : 'failed', error: messageOf(error) };
  }
}
