import type { Worker } from 'node:worker_threads';
import type { ContentPlace } from '../store/layout.ts';
import { startThread } from '../platform/threads/start-thread.ts';
import { nothingRead, type FromReader, type ReadOutcome, type ReadTask, type ToReader } from './messages.ts';

export interface ReadJob extends Omit<ReadTask, 'id'> {
  /** Where a file lies that the asset names, relative to it. */
  resolve(reference: string): Promise<ContentPlace | null>;
  /** The same for the one that it is compared with. */
  resolveOld?(reference: string): Promise<ContentPlace | null>;
}

interface Waiting {
  job: ReadJob;
  settle(outcome: ReadOutcome): void;
}

interface Task extends Waiting {
  id: number;
}

interface Slot {
  thread: Worker | null;
  /** Whether the thread was started here, and is to be ended here. */
  isOwn: boolean;
  /** What was sent to the thread, in order; it reads the first. The others wait there, so that it never waits for us. */
  sent: Task[];
  timer: NodeJS.Timeout | null;
}

const sentAhead = 3;
export const memoryMegabytes = 768;
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

  /** @param threads how many, or running threads that have been told to read facts */
  constructor(store: string, threads: number | readonly Worker[], seconds = readSeconds) {
    this.store = store;
    this.seconds = seconds;
    const running = typeof threads === 'number' ? Array.from({ length: threads }, () => null) : threads;
    this.slots = running.map((thread) => ({ thread, isOwn: false, sent: [], timer: null }));
    for (const slot of this.slots) if (slot.thread) this.listen(slot, slot.thread);
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
        if (slot.timer) clearTimeout(slot.timer);
        // A thread that somebody lent goes back, unless it is in the middle of something.
        if (slot.isOwn || slot.sent.length > 0) await slot.thread?.terminate();
      }),
    );
  }

  private assign(): void {
    for (let depth = 1; depth <= sentAhead; depth++) {
      for (const slot of this.slots) {
        if (slot.sent.length >= depth) continue;
        const next = this.queue.shift();
        if (!next) return;
        this.send(slot, { ...next, id: ++this.lastId });
      }
    }
  }

  private send(slot: Slot, task: Task): void {
    slot.sent.push(task);
    if (slot.sent.length === 1) this.watch(slot);
    const { path, format, place, shown, recipe, against } = task.job;
    (slot.thread ??= this.start(slot)).postMessage({
      type: 'read',
      task: { id: task.id, path, format, place, shown, recipe, against },
    } satisfies ToReader);
  }

  /** Gives the first task its time. */
  private watch(slot: Slot): void {
    if (slot.timer) clearTimeout(slot.timer);
    slot.timer =
      slot.sent.length === 0
        ? null
        : setTimeout(
            () => this.giveUp(slot, `reading took more than ${this.seconds} seconds and was stopped`),
            this.seconds * 1000,
          );
  }

  private start(slot: Slot): Worker {
    const thread = startThread('reader-worker', {
      workerData: { store: this.store },
      resourceLimits: { maxOldGenerationSizeMb: memoryMegabytes },
    });
    slot.isOwn = true;
    this.listen(slot, thread);
    return thread;
  }

  private listen(slot: Slot, thread: Worker): void {
    thread.on('message', (message: FromReader) => this.hear(slot, thread, message));
    thread.on('error', (error) => {
      if (slot.thread === thread) this.giveUp(slot, `the reader broke down: ${error.message}`);
    });
  }

  private hear(slot: Slot, thread: Worker, message: FromReader): void {
    if (slot.thread !== thread || (message.type !== 'done' && message.type !== 'resolve')) return;
    const task = slot.sent.find(({ id }) => id === message.id);
    if (!task) return;
    if (message.type === 'resolve') {
      const { job } = task;
      (message.isOld && job.resolveOld ? job.resolveOld(message.reference) : job.resolve(message.reference))
        .catch(() => null)
        .then((place) =>
          thread.postMessage({ type: 'resolved', call: message.call, place } satisfies ToReader),
        )
        .catch(() => this.giveUp(slot, 'the reader broke down'));
      return;
    }
    slot.sent = slot.sent.filter((other) => other !== task);
    this.watch(slot);
    const { type: _, id: __, ...outcome } = message;
    task.settle(outcome);
    this.assign();
  }

  /** Ends the slot's thread at the cost of the task that it was reading; the others are sent to a new one. */
  private giveUp(slot: Slot, reason: string): void {
    const [guilty, ...others] = slot.sent;
    void slot.thread?.terminate();
    slot.thread = null;
    slot.sent = [];
    this.watch(slot);
    guilty?.settle({ ...nothingRead, reason });
    if (this.closed) return;
    this.queue.unshift(...others);
    this.assign();
  }
}
