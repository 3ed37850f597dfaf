import { parentPort, workerData } from 'node:worker_threads';
import { startReading } from './start-reading.ts';

/** A thread that reads facts and does nothing else: in the place of one that a reader brought down. */
if (!parentPort) throw new Error('reader-worker: not started as a worker thread');
startReading(parentPort, (workerData as { store: string }).store);
