import type { Worker } from 'node:worker_threads';
import type { DataFolder } from '../data-folder.ts';
import type { DatabaseAddress, Pool } from '../database/pool.ts';
import { messageOf } from '../plain-error.ts';
import type { JobOutcome, JobThreadData } from './job-thread.ts';
import { claimJob, finishJob, ownerName, returnJob } from './queue.ts';
import { startThread } from './start-thread.ts';

const pollMs = 700;

/** Takes jobs from the queue, one at a time, and runs each in a thread of its own. */
export class Runner {
  private readonly pool: Pool;
  private readonly address: DatabaseAddress;
  private readonly folder: DataFolder;
  private readonly report: (message: string) => void;
  private current: { thread: Worker; ended: Promise<void> } | null = null;
  private timer: NodeJS.Timeout | null = null;
  private closed = false;

  constructor(pool: Pool, address: DatabaseAddress, folder: DataFolder, report: (message: string) => void) {
    this.pool = pool;
    this.address = address;
    this.folder = folder;
    this.report = report;
  }

  start(): void {
    if (this.closed) return;
    this.timer = setTimeout(() => {
      void this.look()
        .catch((error: unknown) => this.report(`The queue could not be read: ${messageOf(error)}`))
        .finally(() => this.start());
    }, pollMs);
  }

  /** Stops the running job, which can be resumed, and takes no more. */
  async close(): Promise<void> {
    this.closed = true;
    if (this.timer) clearTimeout(this.timer);
    this.current?.thread.postMessage('stop');
    await this.current?.ended;
  }

  private async look(): Promise<void> {
    const owner = ownerName();
    const job = await claimJob(this.pool, owner);
    if (!job) return;
    const data: JobThreadData = {
      address: this.address,
      folder: this.folder,
      jobId: job.id,
      owner,
      threads: job.threads,
    };
    const thread = startThread('job-thread', { workerData: data });
    const ended = new Promise<JobOutcome>((resolve) => {
      thread.on('message', (outcome: JobOutcome) => resolve(outcome));
      thread.on('error', (error) => resolve({ state: 'failed', error: error.message }));
      thread.on('exit', () => resolve({ state: 'failed', error: 'The thread of this job ended early.' }));
    }).then((outcome) => {
      // A server that is going down leaves its job to the next start.
      if (this.closed && outcome.state === 'stopped') return returnJob(this.pool, job.id);
      return finishJob(this.pool, job.id, outcome);
    });
    this.current = { thread, ended };
    await ended;
    this.current = null;
  }
}
