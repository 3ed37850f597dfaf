import { parentPort, workerData } from 'node:worker_threads';
import { ReaderProcesses } from '../decode/reader-processes.ts';
import { IntakeThreads } from '../ingest/intake-threads.ts';
import { runJob } from '../jobs/run-job.ts';
import type { FromJobThread, JobThreadData, ToJobThread } from '../jobs/runner.ts';
import { StoppedError } from '../jobs/stop.ts';
import { messageOf } from '../platform/plain-error.ts';
import { definitionOf, jobServices } from './job-table.ts';

const keepMs = 5 * 60_000;

/** A thread that carries out jobs, one at a time, so that the process's own loop stays free. */
const port = parentPort;
if (!port) throw new Error('job-thread: not started as a worker thread');
const post = (message: FromJobThread): void => port.postMessage(message);
const { address, folder } = workerData as JobThreadData;
const { store, temporary } = folder;
const services = jobServices(
  new IntakeThreads({ address, store, temporary }, keepMs),
  new ReaderProcesses(keepMs),
);
let stop = new AbortController();

port.on('message', (message: ToJobThread) => {
  if (message.type === 'stop') {
    stop.abort();
    return;
  }
  stop = new AbortController();
  void run(message.jobId, message.owner, stop.signal).then(post);
});

async function run(jobId: number, owner: string, signal: AbortSignal): Promise<FromJobThread> {
  try {
    const { result = null, report = null } = await runJob(definitionOf, {
      address,
      folder,
      services,
      owner,
      jobId,
      signal,
      onProgress: (progress) => post({ type: 'progress', progress }),
    });
    return { type: 'ended', outcome: { state: 'done', result, report } };
  } catch (error) {
    const state = error instanceof StoppedError || signal.aborted ? 'stopped' : 'failed';
    return { type: 'ended', outcome: { state, error: messageOf(error) } };
  }
}
