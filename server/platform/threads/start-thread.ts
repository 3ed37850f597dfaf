import { join } from 'node:path';
import { Worker, type WorkerOptions } from 'node:worker_threads';
import { applicationRoot } from '../application-root.ts';

/** Starts one of the threads that the build makes (`build.js` names them), also where this process runs from source. */
export function startThread(
  name: 'intake-worker' | 'job-thread' | 'source-thread' | 'search-thread' | 'library-thread' | 'span-thread',
  options: WorkerOptions,
): Worker {
  return new Worker(join(applicationRoot, 'dist', 'node', `${name}.js`), options);
}

/** Forgets whoever listened to a thread. Not all listeners: some are the thread's own, and start and stop its port. */
export function stopListening(thread: Worker): void {
  for (const event of ['message', 'error', 'exit']) thread.removeAllListeners(event);
}
