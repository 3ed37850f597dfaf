import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { Worker, type WorkerOptions } from 'node:worker_threads';
import { applicationRoot } from '../application-root.ts';

/** Source files of the threads, by the name that the build gives their bundles. */
const sources = {
  'intake-worker': 'server/intake/intake-worker.ts',
  'reader-worker': 'server/readers/reader-worker.ts',
  'job-thread': 'server/work/job-thread.ts',
} as const;

/**
 * Starts a thread: from the built bundle when this process runs from one, else from source through the loader
 * that this process was started with (the tests).
 */
export function startThread(name: keyof typeof sources, options: WorkerOptions): Worker {
  const isBuilt = import.meta.url.includes('/dist/');
  const bundle = join(applicationRoot, 'dist', 'node', `${name}.js`);
  if (isBuilt && existsSync(bundle)) return new Worker(bundle, options);
  return new Worker(join(applicationRoot, sources[name]), { ...options, execArgv: ['--import', 'tsx'] });
}

/** Forgets whoever listened to a thread. Not all listeners: some are the thread's own, and start and stop its port. */
export function stopListening(thread: Worker): void {
  for (const event of ['message', 'error', 'exit']) thread.removeAllListeners(event);
}
