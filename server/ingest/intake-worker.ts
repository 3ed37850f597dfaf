import { parentPort, workerData } from 'node:worker_threads';
import { Choice } from '../../core/containers/choice.ts';
import { openConnection, openPool, type Connection } from '../platform/database/pool.ts';
import { messageOf } from '../platform/plain-error.ts';
import { openStore, type ContentWriter } from '../store/content-store.ts';
import { KnownBuild } from './known-build.ts';
import {
  noCounts,
  type FromIntakeWorker,
  type IntakeWorkerData,
  type ReadShare,
  type ToIntakeWorker,
} from './messages.ts';
import { openSheets, sisterIn } from './read-by-sheet.ts';
import { readUnit } from './read-unit.ts';
import { Recorder } from './recorder.ts';
import { LockedPaths, type UnitContext } from './unit-context.ts';
import { walkFolder } from './walk.ts';

/** A thread that walks, reads, hashes and stores, one message at a time. */
const port = parentPort;
if (!port) throw new Error('intake-worker: not started as a worker thread');
const data = workerData as IntakeWorkerData;
const post = (message: FromIntakeWorker): void => port.postMessage(message);
let opening = openConnection(data.address);
const pool = openPool(data.address, 1);
const store = openStore(pool, data.store);

interface Job {
  writer: ContentWriter;
  connection: Connection;
  recorder: Recorder;
  context: UnitContext;
}
let job: Job | null = null;

/** Between two jobs the database may have been started anew. */
async function connected(): Promise<Connection> {
  try {
    const connection = await opening;
    await connection.ping();
    return connection;
  } catch {
    opening = openConnection(data.address);
    return opening;
  }
}

async function begin({ known, job: told }: Extract<ToIntakeWorker, { type: 'begin' }>): Promise<Job> {
  const { jobId, source, contentRoot, keys, unlocking } = told;
  const connection = await connected();
  const writer = store.openWriter();
  const recorder = new Recorder(connection, writer, jobId, new KnownBuild(known));
  const counts = { ...noCounts };
  let lastToldMs = 0;
  const checkpoint = async (): Promise<void> => {
    if (Date.now() - lastToldMs < 200) return;
    lastToldMs = Date.now();
    post({ type: 'progress', counts: { ...counts } });
    // Lets the thread hear that it is to end.
    await new Promise((resolve) => setImmediate(resolve));
  };
  return {
    writer,
    connection,
    recorder,
    context: {
      recorder,
      source,
      contentRoot,
      keys,
      counts,
      checkpoint,
      temporary: data.temporary,
      choice: new Choice(told.choice),
      holeMark: told.holeMark === null ? null : Buffer.from(told.holeMark),
      unlocking: unlocking === null ? null : new LockedPaths(unlocking),
      containerSheets: openSheets(told.containerSheets),
      formatVersions: told.formatVersions,
      sister: sisterIn(source),
    },
  };
}

let work = Promise.resolve();
port.on('message', (message: ToIntakeWorker) => {
  work = work
    .then(() => carryOut(message))
    .catch((error: unknown) => post({ type: 'failed', message: messageOf(error) }));
});

function begun(): Job {
  if (!job) throw new Error('intake-worker: asked to work before it had begun');
  return job;
}

async function carryOut(message: ToIntakeWorker): Promise<void> {
  switch (message.type) {
    case 'walk':
      for (const part of walkFolder(message.source, new Choice(message.choice)))
        post({ type: 'found', ...part });
      post({ type: 'walked' });
      return;
    case 'begin':
      job = await begin(message);
      return;
    case 'note': {
      const { recorder } = begun();
      for (const { path, target } of message.links) await recorder.addLink(path, path, target);
      for (const problem of message.problems)
        recorder.addProblem({ ...problem, unit: problem.path, locked: false });
      return;
    }
    case 'take': {
      const { context } = begun();
      const shares: ReadShare[] = [];
      for (const unit of message.units) {
        const isWhole = await readUnit(context, unit);
        if (unit.share) shares.push({ path: unit.path, isWhole });
        await context.checkpoint();
      }
      // Others may say next that a file is done: what is known of it has to be written down by then.
      if (shares.length > 0) await context.recorder.flush();
      post({ type: 'taken', counts: { ...context.counts }, shares });
      return;
    }
    case 'whole':
      begun().recorder.addSource(message.unit, message.isWhole);
      return;
    case 'finish': {
      const { recorder, writer } = begun();
      await recorder.flush();
      job = null;
      // Facts can be read while the disk takes the packs.
      post({ type: 'finished' });
      await writer.seal();
      post({ type: 'sealed' });
    }
  }
}
