import { mkdirSync, accessSync, constants } from 'node:fs';
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
}

/** @throws PlainError when the folder cannot be made or written to */
export function openDataFolder(path: string): DataFolder {
  const root = absolutePath(path);
  const folder = {
    root,
    store: join(root, 'store'),
    database: join(root, 'database'),
    // On the store's own disk: what is finished is moved into the store.
    temporary: join(root, 'store', 'temporary'),
    working: join(root, 'working'),
    uploads: join(root, 'uploads'),
  };
  try {
    for (const part of Object.values(folder)) mkdirSync(part, { recursive: true, mode: 0o700 });
    for (const part of Object.values(folder)) accessSync(part, constants.W_OK);
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
  return folder;
}

export function absolutePath(path: string): string {
  return resolve(path.replace(/^~(?=\/|$)/, homedir()));
}
