import retry from 'p-retry';
import { codeOf } from '../plain-error.ts';

/** What the database ends so that others can go on: the same once more will do. */
const passing: ReadonlySet<string> = new Set(['ER_LOCK_DEADLOCK', 'ER_LOCK_WAIT_TIMEOUT', 'ER_CHECKREAD']);

/** Runs work again where the database ended it to get out of a deadlock; up to eight times, a little later each time. */
export async function retryDeadlocks<T>(work: () => Promise<T>): Promise<T> {
  return retry(work, {
    retries: 8,
    minTimeout: 5,
    maxTimeout: 400,
    randomize: true,
    shouldRetry: ({ error }) => passing.has(codeOf(error)),
  });
}
