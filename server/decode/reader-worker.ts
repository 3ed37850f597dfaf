import { parentPort, workerData } from 'node:worker_threads';
import { makeReader } from './make-reader.ts';

/** A thread that reads facts and does nothing else: in the place of one that a reader brought down. */
if (!parentPort) throw new Error('reader-worker: not started as a worker thread');
parentPort.on('message', makeReader(parentPort, (workerData as { store: string }).store));
