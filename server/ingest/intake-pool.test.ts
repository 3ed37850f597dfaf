import { expect } from 'chai';
import { EventEmitter } from 'node:events';
import type { Worker } from 'node:worker_threads';
import { IntakePool } from './intake-pool.ts';
import type { IntakeThreads } from './intake-threads.ts';
import {
  noCounts,
  type FromIntakeWorker,
  type IntakeJob,
  type KnownMemory,
  type SourceFile,
  type ToIntakeWorker,
} from './messages.ts';

/** A worker that does nothing by itself: a test says what it answers. */
class QuietWorker extends EventEmitter {
  readonly received: ToIntakeWorker[] = [];
  hasEnded = false;

  postMessage(message: ToIntakeWorker): void {
    this.received.push(message);
  }

  terminate(): Promise<number> {
    this.hasEnded = true;
    this.emit('exit', 1);
    return Promise.resolve(1);
  }

  answer(message: FromIntakeWorker): void {
    this.emit('message', message);
  }

  /** Files of the batches that it was given. */
  get taken(): SourceFile[][] {
    return this.received.flatMap((message) => (message.type === 'take' ? [message.units] : []));
  }
}

const mebibyte = 1024 ** 2;
const job = { jobId: 7, source: '/game', choice: { include: [], exclude: [] } } as unknown as IntakeJob;
const known = { isBase: false } as unknown as KnownMemory;
const file = (path: string, size = 10): SourceFile => ({ path, size, signature: '00', isSettled: true });
const taken = (files: number): FromIntakeWorker => ({
  type: 'taken',
  counts: { ...noCounts, files },
  shares: [],
});

describe('IntakePool', () => {
  let workers: QuietWorker[];
  let givenBack: unknown[];
  const open = (count: number): IntakePool => {
    workers = Array.from({ length: count }, () => new QuietWorker());
    givenBack = [];
    const threads = {
      take: () => workers as unknown as Worker[],
      giveBack: (threads: Worker[]) => givenBack.push(...threads),
    } as unknown as IntakeThreads;
    return new IntakePool(threads, count, job);
  };
  const worker = (index: number): QuietWorker => {
    const found = workers[index];
    if (!found) throw new RangeError(`no worker ${index}`);
    return found;
  };

  it('gives nobody a file before it is known what the build before has', () => {
    const pool = open(1);
    pool.add(file('a', 20 * mebibyte));
    expect(worker(0).taken).to.deep.equal([]);
    pool.begin(known);
    expect(worker(0).taken).to.have.length(1);
  });

  it('gives files in batches of 16 MiB or 400, the next one to whoever is free', () => {
    const pool = open(2);
    pool.begin(known);
    for (let at = 0; at < 801; at++) pool.add(file(`small/${at}`));
    expect(workers.map((one) => one.taken.map(({ length }) => length))).to.deep.equal([[400], [400]]);
    pool.add(file('large', 16 * mebibyte));
    worker(1).answer(taken(400));
    expect(worker(1).taken.map(({ length }) => length)).to.deep.equal([400, 2]);
    expect(worker(0).taken).to.have.length(1);
  });

  it('ends when all is read, with what was left over in the last batch, and adds up what was read', async () => {
    const pool = open(2);
    pool.begin(known);
    pool.add(file('a'));
    let hasEnded = false;
    const end = pool.end().then(() => (hasEnded = true));
    expect(worker(0).taken).to.deep.equal([[file('a')]]);
    expect(worker(0).received.some(({ type }) => type === 'finish')).to.equal(false);
    worker(0).answer(taken(1));
    for (const one of workers) expect(one.received.at(-1)).to.deep.equal({ type: 'finish' });
    worker(0).answer({ type: 'finished' });
    await Promise.resolve();
    expect(hasEnded).to.equal(false);
    worker(1).answer({ type: 'finished' });
    await end;
    expect(pool.counts.files).to.equal(1);
  });

  it('does not end while the source is still being walked', () => {
    const pool = open(1);
    const found: string[] = [];
    pool.onFound = (files) => found.push(...files.map(({ path }) => path));
    pool.walk();
    pool.begin(known);
    void pool.end();
    worker(0).answer({
      type: 'found',
      files: [file('a'), file('b')],
      links: [],
      problems: [],
      leftOut: { files: 3, bytes: 99 },
    });
    expect(found).to.deep.equal(['a', 'b']);
    expect(worker(0).received.some(({ type }) => type === 'finish')).to.equal(false);
    worker(0).answer({ type: 'walked' });
    expect(worker(0).received.at(-1)).to.deep.equal({ type: 'finish' });
    expect(pool.counts).to.include({ leftOutFiles: 3, leftOutBytes: 99 });
  });

  it('keeps what the walk found besides files until it can be written down', () => {
    const pool = open(1);
    pool.walk();
    const links = [{ path: 'latest', target: 'v2' }];
    worker(0).answer({ type: 'found', files: [], links, problems: [], leftOut: { files: 0, bytes: 0 } });
    expect(worker(0).received.some(({ type }) => type === 'note')).to.equal(false);
    pool.begin(known);
    expect(worker(0).received.filter(({ type }) => type === 'note')).to.have.length(1);
  });

  it('has a large container read in shares, and it is done when the last one is', () => {
    const pool = open(2);
    pool.begin(known);
    pool.add(file('world.zip', 64 * mebibyte));
    expect(workers.flatMap((one) => one.taken.map(([unit]) => unit?.share))).to.deep.equal([
      { index: 0, of: 2 },
      { index: 1, of: 2 },
    ]);
    const answer = (index: number, isWhole: boolean): void =>
      worker(index).answer({
        type: 'taken',
        counts: { ...noCounts },
        shares: [{ path: 'world.zip', isWhole }],
      });
    answer(0, false);
    expect(worker(0).received.some(({ type }) => type === 'whole')).to.equal(false);
    answer(1, true);
    // One share changed while it was read: the file as a whole is not what it was.
    expect(worker(1).received.find(({ type }) => type === 'whole')).to.deep.include({ isWhole: false });
  });

  it('fails with the first failure, whichever way a thread is lost', async () => {
    const pool = open(2);
    pool.begin(known);
    const end = pool.end().catch((error: unknown) => String(error));
    worker(1).answer({ type: 'failed', message: 'the disk is full' });
    worker(0).emit('error', new Error('out of memory'));
    expect(await end).to.equal('Error: the disk is full');
    expect(await pool.whenSealed().catch((error: unknown) => String(error))).to.equal(
      'Error: the disk is full',
    );
  });

  it('does not mind a thread that breaks after its work is written down', async () => {
    const pool = open(1);
    pool.begin(known);
    const end = pool.end();
    worker(0).answer({ type: 'finished' });
    worker(0).emit('error', new Error('too late'));
    await end;
    const sealed = pool.whenSealed();
    worker(0).emit('exit', 1);
    await sealed;
  });

  it('gives threads back that are still there, and ends them where it is stopped', async () => {
    const pool = open(2);
    worker(0).emit('exit', 0);
    pool.release();
    expect(givenBack).to.deep.equal([worker(1)]);
    const stopped = open(1);
    await stopped.close();
    expect(worker(0).hasEnded).to.equal(true);
  });
});
