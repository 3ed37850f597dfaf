import type { Worker } from 'node:worker_threads';
import type { DataFolder } from '../platform/data-folder.ts';
import type { DatabaseAddress, Pool } from '../platform/database/pool.ts';
import { messageOf } from '../platform/plain-error.ts';
import { ownerName } from '../platform/process-mark.ts';
import type { JobThreadData, ToJobThread } from './job-thread.ts';
import { claimJob, finishJob, returnJob, type JobOutcome } from '../jobs/queue.ts';
import { startThread, stopListening } from '../platform/threads/start-thread.ts';

const pollMs = 700;

/** Takes jobs from the queue, one at a time, and has them carried out by a thread of their own. */
export class Runner {
  private readonly pool: Pool;
  private readonly data: JobThreadData;
  private readonly report: (message: string) => void;
  private readonly onEnd: () => void;
  private thread: Worker | null = null;
  private looking: Promise<void> | null = null;
  /** Whether somebody called for a look while one was going on. */
  private isCalled = false;
  private timer: NodeJS.Timeout | null = null;
  private closed = false;
  /** A job that ended, and that is not written down yet. */
  private unfinished: { id: number; outcome: JobOutcome } | null = null;

  /** @param onEnd called when a job has ended */
  constructor(
    pool: Pool,
    address: DatabaseAddress,
    folder: DataFolder,
    report: (message: string) => void,
    onEnd: () => void = () => undefined,
  ) {
    this.pool = pool;
    this.data = { address, folder };
    this.report = report;
    this.onEnd = onEnd;
  }

  /** Looks into the queue now, and from now on again and again: others may put jobs there too. */
  look(): void {
    this.isCalled = this.looking !== null;
    if (this.closed || this.looking) return;
    if (this.timer) clearTimeout(this.timer);
    this.looking = this.takeOne()
      .catch((error: unknown) => {
        this.report(`The queue could not be read: ${messageOf(error)}`);
        return false;
      })
      .then((hasWorked) => {
        this.looking = null;
        this.timer = setTimeout(() => this.look(), hasWorked || this.isCalled ? 0 : pollMs);
      });
  }

  /** Stops the running job, which can be resumed, and takes no more. */
  async close(): Promise<void> {
    this.closed = true;
    this.thread?.postMessage({ type: 'stop' } satisfies ToJobThread);
    await this.looking;
    if (this.timer) clearTimeout(this.timer);
    await this.thread?.terminate();
  }

  private async takeOne(): Promise<boolean> {
    const owner = ownerName();
    // The database may have been away when a job ended.
    if (this.unfinished) await finishJob(this.pool, this.unfinished.id, this.unfinished.outcome);
    this.unfinished = null;
    const job = await claimJob(this.pool, owner);
    if (!job) return false;
    if (this.closed) {
      await returnJob(this.pool, job.id);
      return false;
    }
    const outcome = await this.carryOut({ type: 'run', job, owner });
    // A server that is going down leaves its job to the next start.
    if (this.closed && outcome.state === 'stopped') await returnJob(this.pool, job.id);
    else {
      this.unfinished = { id: job.id, outcome };
      await finishJob(this.pool, job.id, outcome);
      this.unfinished = null;
      this.onEnd();
    }
    return true;
  }

  private carryOut(message: ToJobThread): Promise<JobOutcome> {
    const thread = (this.thread ??= startThread('job-thread', { workerData: this.data }));
    return new Promise<JobOutcome>((resolve) => {
      const end = (outcome: JobOutcome): void => {
        stopListening(thread);
        resolve(outcome);
      };
      const lose = (error: string): void => {
        this.thread = null;
        end({ state: 'failed', error });
      };
      thread.on('message', end);
      thread.on('error', (error) => lose(error.message));
      thread.on('exit', () => lose('The thread of this job ended early.'));
      thread.postMessage(message);
    });
  }
}
