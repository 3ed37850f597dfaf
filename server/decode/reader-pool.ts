import type { LocalContent } from '../store/local-content.ts';
import {
  failedOutcome,
  type FromReader,
  type Operation,
  type Outcomes,
  type Side,
  type ToReader,
} from './operations.ts';
import type { ReaderProcess, ReaderProcesses } from './reader-processes.ts';

/** Tells where a file lies that a content names, relative to it; null where it is not there. */
export type Resolve = (reference: string, side: Side) => Promise<LocalContent | null>;

interface Task {
  id: number;
  operation: Operation;
  resolve: Resolve;
  settle: (outcome: Outcomes[keyof Outcomes]) => void;
  reject: (reason: unknown) => void;
}

interface Slot {
  reader: ReaderProcess | null;
  /** What was sent to the reader, in order; it works on the first. The others wait there, so that it never waits for us. */
  sent: Task[];
  timer: NodeJS.Timeout | null;
}

const sentAhead = 3;
const watchMs = 50;
export const readSeconds = 60;

export interface PoolOptions {
  /** How many readers work at the same time. */
  readers: number;
  /** How long one task may take. */
  seconds?: number;
  /** Aborted when the work is to stop: what was not done is rejected with its reason, and the readers are ended. */
  signal?: AbortSignal;
}

/**
 * Has operations carried out by processes. A reader that hangs, takes too much memory or breaks down costs the one task
 * that it was working on, which is told the reason; the others go on in a new one.
 */
export class ReaderPool {
  private readonly processes: ReaderProcesses;
  private readonly seconds: number;
  private readonly slots: Slot[];
  private queue: Task[] = [];
  private lastId = 0;
  private closed = false;
  private memoryWatch: NodeJS.Timeout | null = null;
  private readonly signal: AbortSignal | undefined;
  private readonly onAbort = (): void => this.stop(this.signal?.reason);

  constructor(processes: ReaderProcesses, { readers, seconds = readSeconds, signal }: PoolOptions) {
    this.processes = processes;
    this.seconds = seconds;
    this.signal = signal;
    this.slots = Array.from({ length: readers }, () => ({ reader: null, sent: [], timer: null }));
    signal?.addEventListener('abort', this.onAbort);
  }

  /** @throws the signal's reason when the work was stopped; a failure of the reader is in the outcome */
  run<Type extends Operation['type']>(
    operation: Extract<Operation, { type: Type }>,
    resolve: Resolve,
  ): Promise<Outcomes[Type]> {
    return new Promise((settle, reject) => {
      if (this.signal?.aborted) {
        reject(this.signal.reason as Error);
        return;
      }
      const task: Task = {
        id: ++this.lastId,
        operation,
        resolve,
        settle: settle as Task['settle'],
        reject,
      };
      this.queue.push(task);
      this.assign();
    });
  }

  close(): void {
    this.closed = true;
    this.signal?.removeEventListener('abort', this.onAbort);
    this.queue = [];
    this.watchMemory(false);
    for (const slot of this.slots) {
      if (slot.timer) clearTimeout(slot.timer);
      const { reader } = slot;
      slot.reader = null;
      reader?.hold(false);
      // One that is in the middle of something would go on with it.
      if (slot.sent.length > 0) reader?.kill();
      else if (reader) this.processes.giveBack(reader);
    }
  }

  private stop(reason: unknown): void {
    const tasks = [...this.slots.flatMap(({ sent }) => sent), ...this.queue];
    this.close();
    for (const { reject } of tasks) reject(reason);
  }

  private assign(): void {
    for (let depth = 1; depth <= sentAhead; depth++) {
      for (const slot of this.slots) {
        if (slot.sent.length >= depth) continue;
        const next = this.queue.shift();
        if (!next) return;
        this.send(slot, next);
      }
    }
  }

  private send(slot: Slot, task: Task): void {
    slot.sent.push(task);
    if (slot.sent.length === 1) this.giveTime(slot);
    const reader = (slot.reader ??= this.listen(slot, this.processes.take()));
    reader.hold(true);
    this.watchMemory(true);
    reader.post({ type: 'run', id: task.id, operation: task.operation });
  }

  /** Gives the first task its time. */
  private giveTime(slot: Slot): void {
    if (slot.timer) clearTimeout(slot.timer);
    slot.timer =
      slot.sent.length === 0
        ? null
        : setTimeout(
            () => this.giveUp(slot, `reading took more than ${this.seconds} seconds and was stopped`),
            this.seconds * 1000,
          );
  }

  /** Looks at what the readers take in all: buffers and native code are in no limit of the engine's. */
  private watchMemory(isNeeded: boolean): void {
    if (!isNeeded) {
      if (this.memoryWatch) clearInterval(this.memoryWatch);
      this.memoryWatch = null;
      return;
    }
    this.memoryWatch ??= setInterval(() => {
      for (const slot of this.slots)
        if (slot.sent.length > 0 && (slot.reader?.memoryBytes() ?? 0) > this.processes.memoryBytes)
          this.giveUp(
            slot,
            `reading took more than ${(this.processes.memoryBytes / 1024 ** 3).toFixed(1)} GiB of memory and was stopped`,
          );
    }, watchMs);
  }

  private listen(slot: Slot, reader: ReaderProcess): ReaderProcess {
    reader.onMessage = (message) => this.onMessage(slot, reader, message);
    reader.onEnd = (reason) => {
      if (slot.reader === reader) this.giveUp(slot, `the reader broke down: ${reason}`);
    };
    return reader;
  }

  private onMessage(slot: Slot, reader: ReaderProcess, message: FromReader): void {
    if (slot.reader !== reader) return;
    const task = slot.sent.find(({ id }) => id === message.id);
    if (!task) return;
    if (message.type === 'resolve') {
      task
        .resolve(message.reference, message.side)
        .catch(() => null)
        .then((content) => reader.post({ type: 'resolved', call: message.call, content } satisfies ToReader))
        .catch(() => this.giveUp(slot, 'the reader broke down'));
      return;
    }
    slot.sent = slot.sent.filter((other) => other !== task);
    this.giveTime(slot);
    task.settle(message.outcome);
    if (slot.sent.length === 0 && reader.isWorn) {
      slot.reader = null;
      reader.kill();
    }
    this.assign();
    if (slot.sent.length === 0) slot.reader?.hold(false);
    if (this.slots.every(({ sent }) => sent.length === 0)) this.watchMemory(false);
  }

  /** Ends the slot's reader at the cost of the task that it worked on; the others are sent to a new one. */
  private giveUp(slot: Slot, reason: string): void {
    const [guilty, ...others] = slot.sent;
    slot.reader?.kill();
    slot.reader = null;
    slot.sent = [];
    this.giveTime(slot);
    guilty?.settle(failedOutcome[guilty.operation.type](reason));
    if (this.closed) return;
    this.queue.unshift(...others);
    this.assign();
  }
}
