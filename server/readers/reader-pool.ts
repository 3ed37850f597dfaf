import type { Worker } from 'node:worker_threads';
import type { Facts } from '../../contract/facts.ts';
import type { ContentPlace } from '../store/layout.ts';
import { startThread } from '../work/start-thread.ts';
import type { FromReader, ReadTask, ToReader } from './messages.ts';

export interface ReadJob extends Omit<ReadTask, 'id'> {
  /** Where a file lies that the asset names, relative to it. */
  resolve(reference: string): Promise<ContentPlace | null>;
}

export interface ReadOutcome {
  facts: Facts | null;
  preview: Uint8Array | null;
  /** Why there are no facts. */
  reason: string | null;
}

interface Waiting {
  job: ReadJob;
  settle(outcome: ReadOutcome): void;
}

interface Slot {
  thread: Worker | null;
  current: (Waiting & { id: number; timer: NodeJS.Timeout }) | null;
}

const memoryMegabytes = 768;
export const readSeconds = 60;

/**
 * Threads that read facts. Each has a limit on memory, and each reading one on time: a reader that hangs or runs
 * out of memory costs its own asset, with the reason, and its thread, which is started anew.
 */
export class ReaderPool {
  private readonly store: string;
  private readonly seconds: number;
  private readonly slots: Slot[];
  private readonly queue: Waiting[] = [];
  private lastId = 0;
  private closed = false;

  constructor(store: string, threads: number, seconds = readSeconds) {
    this.store = store;
    this.seconds = seconds;
    this.slots = Array.from({ length: threads }, () => ({ thread: null, current: null }));
  }

  read(job: ReadJob): Promise<ReadOutcome> {
    return new Promise((settle) => {
      this.queue.push({ job, settle });
      this.assign();
    });
  }

  async close(): Promise<void> {
    this.closed = true;
    this.queue.length = 0;
    await Promise.all(
      this.slots.map(async (slot) => {
        if (slot.current) clearTimeout(slot.current.timer);
        await slot.thread?.terminate();
      }),
    );
  }

  private assign(): void {
    for (const slot of this.slots) {
      if (slot.current || this.queue.length === 0) continue;
      const next = this.queue.shift();
      if (!next) return;
      const thread = (slot.thread ??= this.start(slot));
      const id = ++this.lastId;
      const timer = setTimeout(() => {
        this.giveUp(slot, `reading took more than ${this.seconds} seconds and was stopped`);
      }, this.seconds * 1000);
      slot.current = { ...next, id, timer };
      const { path, format, place } = next.job;
      thread.postMessage({ type: 'read', task: { id, path, format, place } } satisfies ToReader);
    }
  }

  private start(slot: Slot): Worker {
    const thread = startThread('reader-worker', {
      workerData: { store: this.store },
      resourceLimits: { maxOldGenerationSizeMb: memoryMegabytes },
    });
    thread.on('message', (message: FromReader) => this.hear(slot, thread, message));
    thread.on('error', (error) => {
      if (slot.thread === thread) this.giveUp(slot, `the reader broke down: ${error.message}`);
    });
    return thread;
  }

  private hear(slot: Slot, thread: Worker, message: FromReader): void {
    const { current } = slot;
    if (message.type === 'ready' || !current || message.id !== current.id) return;
    if (message.type === 'resolve') {
      current.job
        .resolve(message.reference)
        .catch(() => null)
        .then((place) => thread.postMessage({ type: 'resolved', call: message.call, place } satisfies ToReader))
        .catch(() => this.giveUp(slot, 'the reader broke down'));
      return;
    }
    clearTimeout(current.timer);
    slot.current = null;
    current.settle({ facts: message.facts, preview: message.preview, reason: message.reason });
    this.assign();
  }

  private giveUp(slot: Slot, reason: string): void {
    const { current, thread } = slot;
    slot.current = null;
    slot.thread = null;
    void thread?.terminate();
    if (!current) return;
    clearTimeout(current.timer);
    current.settle({ facts: null, preview: null, reason });
    if (!this.closed) this.assign();
  }
}
