import { parentPort, workerData } from 'node:worker_threads';
import { openPool, type DatabaseAddress } from '../database/pool.ts';
import { messageOf } from '../plain-error.ts';
import { loadTables } from './load-tables.ts';
import { writeTables } from './search-tables.ts';

export interface SearchWork {
  address: DatabaseAddress;
  channelId: number;
  file: string;
  key: string;
}
export type SearchOutcome = { error: string | null };

/** A thread that makes the tables which a search of one channel looks at, and writes them to a file. */
const port = parentPort;
if (!port) throw new Error('search-thread: not started as a worker thread');
const { address, channelId, file, key } = workerData as SearchWork;
const pool = openPool(address, 1);
loadTables(pool, channelId)
  .then((tables) => writeTables(file, key, tables))
  .then(
    () => port.postMessage({ error: null } satisfies SearchOutcome),
    (error: unknown) => port.postMessage({ error: messageOf(error) } satisfies SearchOutcome),
  )
  .finally(() => void pool.end());
