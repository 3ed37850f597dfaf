import type { Worker } from 'node:worker_threads';
import { startThread, stopListening } from '../platform/threads/start-thread.ts';
import type { IntakeWorkerData } from './messages.ts';

const heapMegabytes = 768;

/**
 * Intake workers between jobs. A thread that has worked before has its code compiled and its connection open: starting
 * anew is a good part of the time that a small update takes.
 */
export class IntakeThreads {
  private readonly data: IntakeWorkerData;
  private readonly keepMs: number;
  private idle: Worker[] = [];
  private timer: NodeJS.Timeout | null = null;

  /** @param keepMs how long threads without work are kept */
  constructor(data: IntakeWorkerData, keepMs: number) {
    this.data = data;
    this.keepMs = keepMs;
  }

  take(count: number): Worker[] {
    if (this.timer) clearTimeout(this.timer);
    const threads = this.idle.splice(0, count);
    for (const thread of threads) stopListening(thread);
    while (threads.length < count) {
      threads.push(
        startThread('intake-worker', {
          workerData: this.data,
          resourceLimits: { maxOldGenerationSizeMb: heapMegabytes },
        }),
      );
    }
    return threads;
  }

  /** @param threads that have finished their job and are still running */
  giveBack(threads: readonly Worker[]): void {
    for (const thread of threads) {
      stopListening(thread);
      const drop = (): void => void (this.idle = this.idle.filter((other) => other !== thread));
      thread.on('error', drop).on('exit', drop);
      this.idle.push(thread);
    }
    this.timer = setTimeout(() => void this.close(), this.keepMs);
    this.timer.unref();
  }

  async close(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    await Promise.all(this.idle.splice(0).map((thread) => thread.terminate()));
  }
}
