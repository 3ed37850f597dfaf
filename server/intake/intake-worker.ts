import { parentPort, workerData } from 'node:worker_threads';
import { openConnection } from '../database/pool.ts';
import { messageOf } from '../plain-error.ts';
import { PackWriter } from '../store/pack-writer.ts';
import type { FromIntakeWorker, IntakeWorkerData, ToIntakeWorker } from './messages.ts';
import { readUnit, type UnitContext } from './read-unit.ts';
import { Recorder } from './recorder.ts';
import { walkFolder } from './walk.ts';

/** A thread that walks, reads, hashes and stores. It takes one message at a time and answers each. */
const port = parentPort;
if (!port) throw new Error('intake-worker: not started as a worker thread');
const data = workerData as IntakeWorkerData;
const tell = (message: FromIntakeWorker): void => port.postMessage(message);

const connection = await openConnection(data.address);
const packs = new PackWriter(data.store);
const recorder = new Recorder(connection, packs, data);
const counts = { files: 0, bytes: 0, readBytes: 0 };
let lastToldMs = 0;
const context: UnitContext = {
  recorder,
  source: data.source,
  temporary: data.temporary,
  counts,
  async checkpoint() {
    if (Date.now() - lastToldMs < 200) return;
    lastToldMs = Date.now();
    tell({ type: 'progress', counts: { ...counts } });
    // Lets the thread hear that it is to end.
    await new Promise((resolve) => setImmediate(resolve));
  },
};

let work = Promise.resolve();
port.on('message', (message: ToIntakeWorker) => {
  work = work.then(() => carryOut(message)).catch((error: unknown) => tell({ type: 'failed', message: messageOf(error) }));
});

async function carryOut(message: ToIntakeWorker): Promise<void> {
  switch (message.type) {
    case 'walk': {
      for (const part of walkFolder(data.source)) {
        for (const link of part.links) await recorder.addLink(link.path, link.path, link.target);
        for (const problem of part.problems) recorder.addProblem({ ...problem, unit: problem.path, locked: false });
        tell({ type: 'found', ...part });
      }
      tell({ type: 'walked' });
      return;
    }
    case 'read':
      for (const unit of message.units) {
        await readUnit(context, unit);
        await context.checkpoint();
      }
      tell({ type: 'read', counts: { ...counts } });
      return;
    case 'finish':
      await recorder.flush();
      await packs.seal(connection);
      await connection.end();
      tell({ type: 'finished' });
      port?.close();
  }
}
