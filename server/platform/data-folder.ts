import { randomUUID } from 'node:crypto';
import { mkdirSync, accessSync, constants, readFileSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join, resolve } from 'node:path';
import { PlainError, codeOf } from './plain-error.ts';

/** Where everything lies that must last. Nothing is ever written outside of it but what a person asks to be written. */
export interface DataFolder {
  root: string;
  store: string;
  database: string;
  temporary: string;
  /** Copies of what is fetched from elsewhere. */
  working: string;
  uploads: string;
  /**
   * Names what can be reached from here: folders of this machine, uploads. Machines that reach the same say so by WORVEL_PLACE; else
   * each data folder is a place of its own.
   */
  place: string;
}

/** @throws PlainError when the folder cannot be made or written to */
export function openDataFolder(path: string): DataFolder {
  const root = absolutePath(path);
  const parts = {
    root,
    store: join(root, 'store'),
    database: join(root, 'database'),
    // On the store's own disk: what is finished is moved into the store.
    temporary: join(root, 'store', 'temporary'),
    working: join(root, 'working'),
    uploads: join(root, 'uploads'),
  };
  try {
    for (const part of Object.values(parts)) mkdirSync(part, { recursive: true, mode: 0o700 });
    for (const part of Object.values(parts)) accessSync(part, constants.W_OK);
    return { ...parts, place: placeOf(root) };
  } catch (error) {
    const reasons: Record<string, string> = {
      EACCES: 'it is not writable for this user',
      EPERM: 'it is not writable for this user',
      EROFS: 'it lies on a read-only file system',
      ENOTDIR: 'a part of the path is a file and not a folder',
      EEXIST: 'a part of the path is a file and not a folder',
      ENOSPC: 'the disk is full',
    };
    throw new PlainError(
      `The data folder ${root} cannot be used: ${reasons[codeOf(error)] ?? String(error)}.`,
    );
  }
}

function placeOf(root: string): string {
  if (process.env.WORVEL_PLACE) return process.env.WORVEL_PLACE.slice(0, 64);
  const file = join(root, 'place');
  try {
    // Whoever is first names it; the others read the name.
    writeFileSync(file, randomUUID(), { flag: 'wx', mode: 0o600 });
  } catch (error) {
    if (codeOf(error) !== 'EEXIST') throw error;
  }
  return readFileSync(file, 'utf8').trim().slice(0, 64);
}

export function absolutePath(path: string): string {
  return resolve(path.replace(/^~(?=\/|$)/, homedir()));
}
