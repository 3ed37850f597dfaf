import { setTimeout as sleep } from 'node:timers/promises';
import type { Worker } from 'node:worker_threads';
import type { Job, Progress } from '../../contract/work.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { DatabaseAddress, Pool } from '../platform/database/pool.ts';
import { PlainError, messageOf } from '../platform/plain-error.ts';
import { ownerName } from '../platform/process-mark.ts';
import { startThread, stopListening } from '../platform/threads/start-thread.ts';
import { findJob } from './jobs.ts';
import {
  claimJob,
  finishJob,
  haltJob,
  isStopRequested,
  isToMakeRoom,
  returnJob,
  type JobOutcome,
} from './queue.ts';
import { StoppedError } from './stop.ts';

export interface JobThreadData {
  address: DatabaseAddress;
  folder: DataFolder;
}
export type ToJobThread = { type: 'run'; jobId: number; owner: string } | { type: 'stop' };
export type FromJobThread = { type: 'progress'; progress: Progress } | { type: 'ended'; outcome: JobOutcome };

const pollMs = 700;
const stopPollMs = 250;
/** How long a job that was asked to stop may take to come to a good place. Then its thread is ended where it is. */
const graceMs = 600;

export interface RunnerOptions {
  report: (message: string) => void;
  /** Called when a job has ended. */
  onEnd?: () => void;
}

/** Takes jobs from the queue, one at a time, and has them carried out by a thread of their own. */
export class Runner {
  private readonly pool: Pool;
  private readonly data: JobThreadData;
  private readonly options: RunnerOptions;
  private thread: Worker | null = null;
  private looking: Promise<void> | null = null;
  /** Whether somebody called for a look while one was going on. */
  private isCalled = false;
  private timer: NodeJS.Timeout | null = null;
  private closed = false;
  /** Whether the job that runs was stopped to make room for others. */
  private isMakingRoom = false;
  /** Stops the job that runs, if any. */
  private stopRunning: () => void = () => undefined;
  private onProgress: (progress: Progress) => void = () => undefined;
  /** A job that ended, and that is not written down yet. */
  private unfinished: { id: number; outcome: JobOutcome } | null = null;

  constructor(pool: Pool, data: JobThreadData, options: RunnerOptions) {
    this.pool = pool;
    this.data = data;
    this.options = options;
  }

  /** Looks into the queue now, and from now on again and again: others may put jobs there too. */
  look(): void {
    this.isCalled = this.looking !== null;
    if (this.closed || this.looking) return;
    if (this.timer) clearTimeout(this.timer);
    this.looking = this.takeOne(null)
      .catch((error: unknown) => {
        this.options.report(`The queue could not be read: ${messageOf(error)}`);
        return false;
      })
      .then((hasWorked) => {
        this.looking = null;
        this.timer = setTimeout(() => this.look(), hasWorked || this.isCalled ? 0 : pollMs);
      });
  }

  /**
   * Carries out one job of the queue, as soon as it may run. Where another process takes it, it is followed there.
   * @param signal stops the job
   * @throws PlainError with the reason where it fails or is stopped
   */
  async runOne(jobId: number, signal: AbortSignal, onProgress: (progress: Progress) => void): Promise<Job> {
    this.onProgress = onProgress;
    const onAbort = (): void => this.stopRunning();
    signal.addEventListener('abort', onAbort);
    try {
      for (;;) {
        if (signal.aborted) await haltJob(this.pool, jobId, 'stop');
        else await this.takeOne(jobId);
        const job = await findJob(this.pool, jobId);
        if (job.state === 'done') return job;
        if (job.state !== 'waiting' && job.state !== 'running')
          throw new PlainError(job.error ?? new StoppedError().message);
        await sleep(stopPollMs);
      }
    } finally {
      signal.removeEventListener('abort', onAbort);
    }
  }

  /** Stops the running job, which can be resumed, and takes no more. */
  async close(): Promise<void> {
    this.closed = true;
    this.stopRunning();
    await this.looking;
    if (this.timer) clearTimeout(this.timer);
    await this.thread?.terminate();
  }

  private async takeOne(jobId: number | null): Promise<boolean> {
    const owner = ownerName();
    // The database may have been away when a job ended.
    if (this.unfinished) await finishJob(this.pool, this.unfinished.id, this.unfinished.outcome);
    this.unfinished = null;
    const id = await claimJob(this.pool, owner, jobId, this.data.folder.place);
    if (id === null) return false;
    if (this.closed) {
      await returnJob(this.pool, id);
      return false;
    }
    this.isMakingRoom = false;
    const outcome = await this.carryOut(id, owner, jobId === null);
    // A server that is going down leaves its job to the next start, and background work goes on after what came in between.
    if ((this.closed || this.isMakingRoom) && outcome.state === 'stopped') await returnJob(this.pool, id);
    else {
      this.unfinished = { id, outcome };
      await finishJob(this.pool, id, outcome);
      this.unfinished = null;
      this.options.onEnd?.();
    }
    return true;
  }

  /** @param mayMakeRoom whether others of the queue may come in between */
  private carryOut(jobId: number, owner: string, mayMakeRoom: boolean): Promise<JobOutcome> {
    const thread = (this.thread ??= startThread('job-thread', { workerData: this.data }));
    return new Promise<JobOutcome>((resolve) => {
      let grace: NodeJS.Timeout | null = null;
      const end = (outcome: JobOutcome): void => {
        if (grace) clearTimeout(grace);
        clearInterval(watching);
        this.stopRunning = () => undefined;
        stopListening(thread);
        resolve(outcome);
      };
      const lose = (outcome: JobOutcome): void => {
        this.thread = null;
        end(outcome);
      };
      this.stopRunning = () => {
        thread.postMessage({ type: 'stop' } satisfies ToJobThread);
        // In the middle of a computation it hears nothing. What it wrote down so far is whole, and its processes end with it.
        grace ??= setTimeout(() => {
          lose({ state: 'stopped', error: new StoppedError().message });
          void thread.terminate();
        }, graceMs);
      };
      const watching = setInterval(() => {
        this.isToStop(jobId, mayMakeRoom)
          .then((isRequested) => (isRequested ? this.stopRunning() : undefined))
          // The database is away: the job itself says so, when it needs it.
          .catch(() => undefined);
      }, stopPollMs);
      thread.on('message', (message: FromJobThread) => {
        if (message.type === 'progress') this.onProgress(message.progress);
        else end(message.outcome);
      });
      thread.on('error', (error) => lose({ state: 'failed', error: error.message }));
      thread.on('exit', () => lose({ state: 'failed', error: 'The thread of this job ended early.' }));
      thread.postMessage({ type: 'run', jobId, owner } satisfies ToJobThread);
    });
  }

  private async isToStop(jobId: number, mayMakeRoom: boolean): Promise<boolean> {
    if (await isStopRequested(this.pool, jobId)) {
      this.isMakingRoom = false;
      return true;
    }
    if (!mayMakeRoom || !(await isToMakeRoom(this.pool, jobId, this.data.folder.place))) return false;
    this.isMakingRoom = true;
    return true;
  }
}
