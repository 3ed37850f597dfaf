import { parentPort, workerData } from 'node:worker_threads';
import { openPool, type DatabaseAddress } from '../../platform/database/pool.ts';
import { PlainError, messageOf } from '../../platform/plain-error.ts';
import { loadTables } from './load-tables.ts';
import { writeTables } from './search-tables.ts';
import { writeTextTables } from './text-tables.ts';

export interface SearchWork {
  address: DatabaseAddress;
  store: string;
  channelId: number;
  key: string;
  /** File of the paths with their states. */
  file: string;
  /** File of the texts, to be made from the other one; null where that one is to be made. */
  textFile: string | null;
}
export type SearchOutcome = { error: string | null };

/** A thread that makes the tables which a search of one channel looks at, and writes them to files. */
const port = parentPort;
if (!port) throw new Error('search-thread: not started as a worker thread');
const { address, store, channelId, key, file, textFile } = workerData as SearchWork;
const pool = openPool(address, 1);
const tell = (outcome: SearchOutcome): void => port.postMessage(outcome);
try {
  if (textFile === null) writeTables(file, key, await loadTables(pool, channelId));
  else if (!(await writeTextTables(pool, store, file, textFile, key)))
    throw new PlainError('the builds have changed meanwhile');
  tell({ error: null });
} catch (error) {
  tell({ error: messageOf(error) });
} finally {
  await pool.end();
}
