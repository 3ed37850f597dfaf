import { readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { PlainError, codeOf } from './plain-error.ts';
import { isAlive, processMark } from './process-mark.ts';

/**
 * Runs `work` while no other process of this machine does under the same file. A lock whose owner is dead is taken over at
 * once: a package that goes by the age of the file was looked at, and has others wait until it is old.
 * @throws PlainError when the lock does not become free in time
 */
export async function withLock<T>(
  { file, waitSeconds }: { file: string; waitSeconds: number },
  work: () => Promise<T>,
): Promise<T> {
  const mark = processMark() ?? String(process.pid);
  for (const end = Date.now() + waitSeconds * 1000; ; await sleep(30)) {
    try {
      writeFileSync(file, mark, { flag: 'wx' });
      break;
    } catch (error) {
      if (codeOf(error) !== 'EEXIST') throw error;
      if (isStale(file)) rmSync(file, { force: true });
      if (Date.now() > end) throw new PlainError(`Another process holds ${file}.`);
    }
  }
  try {
    return await work();
  } finally {
    rmSync(file, { force: true });
  }
}

function isStale(file: string): boolean {
  try {
    const owner = readFileSync(file, 'utf8');
    // Empty where its owner was killed between making and marking it.
    return owner === '' ? Date.now() - statSync(file).mtimeMs > 5000 : !isAlive(owner);
  } catch {
    // Gone in this moment: the next try will see.
    return false;
  }
}
