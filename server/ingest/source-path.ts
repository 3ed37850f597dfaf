import { statSync } from 'node:fs';
import { homedir } from 'node:os';
import { resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { PlainError, codeOf } from '../platform/plain-error.ts';

/**
 * The source as a person pastes it: in quotes, with `~`, as `file://`, with a trailing slash, with backslashes
 * or doubled backslashes. Whatever exists as it was written is taken as it was written.
 */
export function normaliseSource(pasted: string, exists: (path: string) => boolean = doesExist): string {
  let path = pasted.trim();
  for (const [open, close] of [
    ['"', '"'],
    ["'", "'"],
    ['“', '”'],
    ['‘', '’'],
    ['`', '`'],
  ] as const) {
    if (path.length > 1 && path.startsWith(open) && path.endsWith(close)) path = path.slice(1, -1).trim();
  }
  if (/^file:\/\//i.test(path)) {
    const url = URL.parse(path.replaceAll('\\', '/'));
    if (url && (url.hostname === '' || url.hostname === 'localhost')) {
      url.hostname = '';
      path = fileURLToPath(url);
    }
  }
  if (path === '~' || path.startsWith('~/') || path.startsWith('~\\')) path = homedir() + path.slice(1);
  const candidates = [path, path.replaceAll('\\ ', ' '), path.replace(/\\+/g, '/').replace(/\/{2,}/g, '/')];
  const found = candidates.find((candidate) => candidate !== '' && exists(resolve(candidate)));
  return resolve(found ?? candidates.at(-1) ?? path);
}

export type SourceKind = 'folder' | 'file';

/** @throws PlainError that says what is wrong with it */
export function checkSource(path: string): SourceKind {
  try {
    const stat = statSync(path);
    if (stat.isDirectory()) return 'folder';
    if (stat.isFile()) return 'file';
  } catch (error) {
    if (codeOf(error) === 'EACCES') throw new PlainError(`The source ${path} may not be read by this user.`);
    throw new PlainError(`The source ${path} does not exist.`);
  }
  throw new PlainError(`The source ${path} is neither a folder nor a file.`);
}

function doesExist(path: string): boolean {
  return statSync(path, { throwIfNoEntry: false }) !== undefined;
}
