import { parentPort, workerData } from 'node:worker_threads';
import { openPool } from '../platform/database/pool.ts';
import { PlainError, messageOf } from '../platform/plain-error.ts';
import { loadTables } from '../library/search/load-tables.ts';
import { readTables, writeTables } from '../library/search/search-tables.ts';
import { openStore } from '../store/content-store.ts';
import type { SearchOutcome, SearchWork } from '../library/search/search-work.ts';
import { writeTextTables } from '../library/search/text-tables.ts';

/** A thread that makes the tables which a search of one channel looks at, and writes them to files. */
const port = parentPort;
if (!port) throw new Error('search-thread: not started as a worker thread');
const { address, storeFolder, channelId, key, state, known, file, textFile } = workerData as SearchWork;
const pool = openPool(address, 1);
const post = (outcome: SearchOutcome): void => port.postMessage(outcome);
try {
  if (textFile === null) {
    const earlier = known ?? (await readTables(file, null));
    writeTables(file, key, await loadTables(pool, { channelId, state, known: earlier }));
  } else if (!(await writeTextTables(openStore(pool, storeFolder), file, textFile, key)))
    throw new PlainError('the builds have changed meanwhile');
  post({ error: null });
} catch (error) {
  post({ error: messageOf(error) });
} finally {
  await pool.end();
}
