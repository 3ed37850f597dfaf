import { parentPort, workerData } from 'node:worker_threads';
import type { DataFolder } from '../data-folder.ts';
import type { DatabaseAddress } from '../database/pool.ts';
import { runIndex } from '../intake/run-index.ts';
import { messageOf } from '../plain-error.ts';
import type { IntakeResult } from '../../contract/builds.ts';
import { StoppedError } from './stop.ts';

export interface JobThreadData {
  address: DatabaseAddress;
  folder: DataFolder;
  jobId: number;
  owner: string;
  threads: number | null;
}

export type JobOutcome =
  { state: 'done'; result: IntakeResult } | { state: 'stopped' | 'failed'; error: string };

/** A thread that carries out one job of the server, so that the server's own loop stays free. */
const port = parentPort;
if (!port) throw new Error('job-thread: not started as a worker thread');
const data = workerData as JobThreadData;
const stop = new AbortController();
port.on('message', () => stop.abort());

let outcome: JobOutcome;
try {
  outcome = { state: 'done', result: await runIndex({ ...data, signal: stop.signal }) };
} catch (error) {
  outcome = { state: error instanceof StoppedError ? 'stopped' : 'failed', error: messageOf(error) };
}
port.postMessage(outcome);
port.close();
