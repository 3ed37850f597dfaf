import type { Worker } from 'node:worker_threads';
import type { IntakeThreads } from './intake-threads.ts';
import {
  noCounts,
  type FromIntakeWorker,
  type IntakeCounts,
  type IntakeJob,
  type KnownMemory,
  type LeftOut,
  type ReadShare,
  type SourceFile,
  type SourceLink,
  type SourceProblem,
  type ToIntakeWorker,
} from './messages.ts';

const batchBytes = 16 * 1024 * 1024;
const batchFiles = 400;

interface Member {
  thread: Worker;
  hasEnded: boolean;
  hasFinished: boolean;
  hasSealed: boolean;
  counts: IntakeCounts;
  idle: boolean;
}

/** Containers from this size on are read by all threads at once, each its share. */
const sharedBytes = 64 * 1024 * 1024;

/** The intake workers of one job: hands out batches of files, and adds up what they report. */
export class IntakePool {
  /** Told of the files that the walk finds. */
  onFound: (files: SourceFile[]) => void = () => undefined;
  private readonly threads: IntakeThreads;
  private readonly job: IntakeJob;
  private readonly members: Member[];
  private queue: SourceFile[][] = [];
  private batch: SourceFile[] = [];
  private batchSize = 0;
  private walking = false;
  private hasBegun = false;
  private readonly leftOut: LeftOut = { files: 0, bytes: 0 };
  /** Files that are read in shares, with what is not back of them. */
  private readonly shared = new Map<string, { unit: SourceFile; open: number; isWhole: boolean }>();
  /** What the walk found besides files, until somebody can write it down. */
  private notes: { links: SourceLink[]; problems: SourceProblem[] }[] = [];
  private ending: { resolve(): void; reject(error: Error): void } | null = null;
  private failure: Error | null = null;
  private sealing: { resolve(): void; reject(error: Error): void } | null = null;

  constructor(threads: IntakeThreads, count: number, job: IntakeJob) {
    this.threads = threads;
    this.job = job;
    this.members = threads.take(count).map((thread) => {
      const member: Member = {
        thread,
        hasEnded: false,
        hasFinished: false,
        hasSealed: false,
        counts: { ...noCounts },
        idle: true,
      };
      thread.on('message', (message: FromIntakeWorker) => this.onMessage(member, message));
      thread.on('error', (error) => {
        // Once it has finished, all that it gathered is written down: only its pack is open, and is looked through later.
        if (!member.hasFinished) this.fail(error);
      });
      thread.on('exit', () => {
        member.hasEnded = true;
        // Packs that a thread left open are looked through before the next job.
        this.noteSealed(member);
      });
      return member;
    });
  }

  get counts(): IntakeCounts {
    const sum = { ...noCounts, leftOutFiles: this.leftOut.files, leftOutBytes: this.leftOut.bytes };
    for (const { counts } of this.members)
      for (const name of Object.keys(noCounts) as (keyof IntakeCounts)[]) sum[name] += counts[name];
    return sum;
  }

  /** One member walks the source; what it finds comes through `onFound`. */
  walk(): void {
    this.walking = true;
    this.send(this.first, { type: 'walk', source: this.job.source, choice: this.job.choice });
  }

  /** From now on files are read: before, what the build before has is not known yet. */
  begin(known: KnownMemory): void {
    for (const { thread } of this.members)
      thread.postMessage({ type: 'begin', known, job: this.job } satisfies ToIntakeWorker);
    this.hasBegun = true;
    for (const note of this.notes) this.write(note);
    this.assign();
  }

  add(file: SourceFile): void {
    const of = this.members.length;
    if (file.size >= sharedBytes && of > 1) {
      this.shared.set(file.path, { unit: file, open: of, isWhole: true });
      for (let index = 0; index < of; index++) this.queue.push([{ ...file, share: { index, of } }]);
      this.assign();
      return;
    }
    this.batch.push(file);
    this.batchSize += file.size;
    if (this.batchSize >= batchBytes || this.batch.length >= batchFiles) this.closeBatch();
  }

  /** Resolves when all that was added has been read and brought in; rejects with the first failure. */
  end(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.ending = { resolve, reject };
      if (this.failure) reject(this.failure);
      this.assign();
    });
  }

  /** Resolves when what was stored is safe from a power cut. */
  whenSealed(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.sealing = { resolve, reject };
      if (this.failure) reject(this.failure);
      if (this.members.every(({ hasSealed }) => hasSealed)) resolve();
    });
  }

  /** Keeps the threads for the next job, when this one has come to its end. */
  release(): void {
    this.threads.giveBack(
      this.members.splice(0).flatMap(({ thread, hasEnded }) => (hasEnded ? [] : [thread])),
    );
  }

  /** Ends the threads, in the middle of whatever they do. */
  async close(): Promise<void> {
    await Promise.all(this.members.splice(0).map(({ thread }) => thread.terminate()));
  }

  private get first(): Member {
    const [first] = this.members;
    if (!first) throw new RangeError('IntakePool: at least one thread is needed');
    return first;
  }

  private write({ links, problems }: { links: SourceLink[]; problems: SourceProblem[] }): void {
    this.first.thread.postMessage({ type: 'note', links, problems } satisfies ToIntakeWorker);
  }

  private closeBatch(): void {
    if (this.batch.length > 0) this.queue.push(this.batch);
    this.batch = [];
    this.batchSize = 0;
    this.assign();
  }

  private assign(): void {
    if (!this.hasBegun) return;
    if (!this.walking && this.batch.length > 0) {
      this.queue.push(this.batch);
      this.batch = [];
    }
    for (const member of this.members) {
      if (!member.idle) continue;
      const units = this.queue.shift();
      if (units) this.send(member, { type: 'take', units });
    }
    if (!this.walking && this.ending && this.queue.length === 0 && this.members.every(({ idle }) => idle)) {
      for (const member of this.members) this.send(member, { type: 'finish' });
    }
  }

  private send(member: Member, message: ToIntakeWorker): void {
    member.idle = false;
    member.thread.postMessage(message);
  }

  private onMessage(member: Member, message: FromIntakeWorker): void {
    switch (message.type) {
      case 'found':
        this.onFound(message.files);
        this.leftOut.files += message.leftOut.files;
        this.leftOut.bytes += message.leftOut.bytes;
        if (message.links.length + message.problems.length === 0) return;
        if (this.hasBegun) this.write(message);
        else this.notes.push(message);
        return;
      case 'walked':
        this.walking = false;
        member.idle = true;
        this.assign();
        return;
      case 'progress':
        member.counts = message.counts;
        return;
      case 'taken':
        member.counts = message.counts;
        member.idle = true;
        for (const share of message.shares) this.noteShare(member, share);
        this.assign();
        return;
      case 'finished':
        member.hasFinished = true;
        if (this.members.every(({ hasFinished }) => hasFinished)) this.ending?.resolve();
        return;
      case 'sealed':
        this.noteSealed(member);
        return;
      case 'failed':
        this.fail(new Error(message.message));
    }
  }

  /** Once all shares of a file are read, the last thread writes down that the file is done. */
  private noteShare(member: Member, { path, isWhole }: ReadShare): void {
    const shared = this.shared.get(path);
    if (!shared) return;
    shared.open--;
    shared.isWhole &&= isWhole;
    if (shared.open > 0) return;
    this.shared.delete(path);
    member.thread.postMessage({
      type: 'whole',
      unit: shared.unit,
      isWhole: shared.isWhole,
    } satisfies ToIntakeWorker);
  }

  private noteSealed(member: Member): void {
    member.hasSealed = true;
    if (this.members.every(({ hasSealed }) => hasSealed)) this.sealing?.resolve();
  }

  private fail(error: Error): void {
    this.failure ??= error;
    this.ending?.reject(this.failure);
    this.sealing?.reject(this.failure);
  }
}
