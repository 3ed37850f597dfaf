import { parentPort, workerData } from 'node:worker_threads';
import type { IntakeResult } from '../../contract/builds.ts';
import type { DataFolder } from '../data-folder.ts';
import type { DatabaseAddress } from '../database/pool.ts';
import { CrewThreads } from '../intake/crew-threads.ts';
import { runIndex } from '../intake/run-index.ts';
import { messageOf } from '../plain-error.ts';
import { StoppedError } from './stop.ts';

export interface JobThreadData {
  address: DatabaseAddress;
  folder: DataFolder;
}

export type ToJobThread =
  { type: 'run'; jobId: number; owner: string; threads: number | null } | { type: 'stop' };

export type JobOutcome =
  { state: 'done'; result: IntakeResult } | { state: 'stopped' | 'failed'; error: string };

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

async function run({ jobId, owner, threads }: Extract<ToJobThread, { type: 'run' }>): Promise<JobOutcome> {
  try {
    const result = await runIndex({
      address,
      folder,
      crewThreads,
      jobId,
      owner,
      threads,
      signal: stop.signal,
    });
    return { state: 'done', result };
  } catch (error) {
    return { state: error instanceof StoppedError ? 'stopped' : 'failed', error: messageOf(error) };
  }
}
