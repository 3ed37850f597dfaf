import { parentPort, workerData } from 'node:worker_threads';
import { openConnection, type Connection } from '../database/pool.ts';
import { messageOf } from '../plain-error.ts';
import { PackWriter } from '../store/pack-writer.ts';
import { KnownBuild } from './known-build.ts';
import type { FromIntakeWorker, IntakeWorkerData, KnownMemory, ToIntakeWorker } from './messages.ts';
import { readUnit, type UnitContext } from './read-unit.ts';
import type { ToReader } from '../readers/messages.ts';
import { startReading } from '../readers/start-reading.ts';
import { Recorder } from './recorder.ts';
import { walkFolder } from './walk.ts';

/**
 * A thread that walks, reads, hashes and stores, one message at a time; then, from `finish` on, reads facts: starting
 * threads anew for that took longer than the facts of most updates.
 */
const port = parentPort;
if (!port) throw new Error('intake-worker: not started as a worker thread');
const data = workerData as IntakeWorkerData;
const tell = (message: FromIntakeWorker): void => port.postMessage(message);

const opening = openConnection(data.address);
const counts = { files: 0, bytes: 0, readBytes: 0 };
let lastToldMs = 0;
const checkpoint = async (): Promise<void> => {
  if (Date.now() - lastToldMs < 200) return;
  lastToldMs = Date.now();
  tell({ type: 'progress', counts: { ...counts } });
  // Lets the thread hear that it is to end.
  await new Promise((resolve) => setImmediate(resolve));
};

interface Tools {
  connection: Connection;
  packs: PackWriter;
  recorder: Recorder;
  context: UnitContext;
}
let tools: Tools | null = null;

async function begin(memory: KnownMemory): Promise<Tools> {
  const connection = await opening;
  const packs = new PackWriter(data.store);
  const recorder = new Recorder(connection, packs, data, new KnownBuild(memory));
  return {
    connection,
    packs,
    recorder,
    context: { recorder, source: data.source, temporary: data.temporary, counts, checkpoint },
  };
}

let work = Promise.resolve();
port.on('message', (message: ToIntakeWorker | ToReader) => {
  work = work
    .then(() => carryOut(message))
    .catch((error: unknown) => tell({ type: 'failed', message: messageOf(error) }));
});

function begun(): Tools {
  if (!tools) throw new Error('intake-worker: asked to work before it had begun');
  return tools;
}

async function carryOut(message: ToIntakeWorker | ToReader): Promise<void> {
  switch (message.type) {
    case 'walk':
      for (const part of walkFolder(data.source)) tell({ type: 'found', ...part });
      tell({ type: 'walked' });
      return;
    case 'begin':
      tools = await begin(message.known);
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
      for (const unit of message.units) {
        await readUnit(context, unit);
        await checkpoint();
      }
      tell({ type: 'taken', counts: { ...counts } });
      return;
    }
    case 'finish': {
      const { recorder, packs, connection } = begun();
      await recorder.flush();
      await packs.seal(connection);
      await connection.end();
      tools = null;
      if (port) startReading(port, data.store);
      tell({ type: 'finished' });
      return;
    }
    case 'read':
    case 'resolved':
      // For the reader, which hears the same port once this one has finished.
      if (tools) throw new Error('intake-worker: asked for facts before it had finished');
  }
}
