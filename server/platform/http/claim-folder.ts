import { linkSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PlainError, codeOf } from '../plain-error.ts';
import { hasEnded, ownerName } from '../process-mark.ts';

/**
 * Makes this process the only server of a data folder, also among those that start at the same moment.
 * @returns what gives the folder free again
 * @throws PlainError when another server has it
 */
export function claimFolder(root: string): () => void {
  const lock = join(root, 'server.lock');
  const own = `${lock}.${process.pid}`;
  writeFileSync(own, ownerName(), { mode: 0o600 });
  try {
    // A link appears with its content, and only where there is none.
    while (!linked(own, lock)) {
      const owner = readOwner(lock);
      // One of another machine cannot be asked whether it lives: it has the folder until its lock is taken away by hand.
      if (owner !== null && hasEnded(owner) !== true)
        throw new PlainError(
          `A server runs on ${root} already: process ${owner.split('/').reverse().join(' on ')}. If it has ended, remove ${lock}.`,
        );
      takeAway(lock, `${own}.ended`, owner);
    }
  } finally {
    rmSync(own, { force: true });
  }
  return () => rmSync(lock, { force: true });
}

function linked(from: string, to: string): boolean {
  try {
    linkSync(from, to);
    return true;
  } catch (error) {
    if (codeOf(error) !== 'EEXIST') throw error;
    return false;
  }
}

/** Removes the lock of an ended server; one that a third has put there meanwhile is put back. */
function takeAway(lock: string, aside: string, ended: string | null): void {
  try {
    renameSync(lock, aside);
  } catch {
    // Somebody else took it away.
    return;
  }
  if (readOwner(aside) !== ended) linked(aside, lock);
  rmSync(aside, { force: true });
}

function readOwner(lock: string): string | null {
  try {
    return readFileSync(lock, 'utf8');
  } catch {
    // It was given free at this moment.
    return null;
  }
}
