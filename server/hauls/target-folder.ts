import { constants } from 'node:fs';
import { access, mkdir, readdir, rm, statfs } from 'node:fs/promises';
import { isAbsolute, join, relative, resolve } from 'node:path';
import { bytesText } from '../../core/figures.ts';
import { PlainError, codeOf } from '../platform/plain-error.ts';

/** Where a haul that is to be fetched as ZIP is kept. */
export function keptRunFolder(dataRoot: string, runId: number): string {
  return join(dataRoot, 'hauls', String(runId));
}

/**
 * Sees to it, before anything is written, that a folder can take a haul: it is empty or new, this user may write there, there is
 * room, and it is no part of what Worvel reads or keeps.
 * @param kept folders that nothing may be written into: sources of builds, and the data
 * @throws PlainError that says why not
 */
export async function prepareTarget(folder: string, kept: readonly string[], bytes: number): Promise<string> {
  if (!isAbsolute(folder)) throw new PlainError(`${folder} is no whole path: it must begin with /.`);
  const path = resolve(folder);
  refuseWithin(path, kept);
  let made: string | undefined;
  try {
    made = await mkdir(path, { recursive: true });
    await access(path, constants.W_OK | constants.X_OK);
  } catch (error) {
    throw new PlainError(refusal(path, error));
  }
  const there = await readdir(path);
  if (there.length > 0) throw new PlainError(`${path} is not empty: choose an empty folder, or a new one.`);
  const room = await freeBytes(path);
  if (room !== null && room < bytes) {
    // Nothing is left of what was refused.
    if (made !== undefined) await rm(made, { recursive: true, force: true });
    throw new PlainError(
      `There is not enough room at ${path}: about ${bytesText(bytes)} are needed, and ${bytesText(room)} are free.`,
    );
  }
  return path;
}

/** @param kept folders that nothing may be written into @throws PlainError that says which of them it lies in */
export function refuseWithin(path: string, kept: readonly string[]): void {
  for (const source of kept)
    if (isWithin(path, source))
      throw new PlainError(`${path} lies in ${source}, which Worvel reads: choose another folder.`);
}

function isWithin(path: string, folder: string): boolean {
  const way = relative(resolve(folder), path);
  return way === '' || (!way.startsWith('..') && !isAbsolute(way));
}

async function freeBytes(path: string): Promise<number | null> {
  try {
    const { bavail, bsize } = await statfs(path);
    return Number(bavail) * Number(bsize);
  } catch {
    // A file system that does not tell.
    return null;
  }
}

function refusal(path: string, error: unknown): string {
  switch (codeOf(error)) {
    case 'ENOTDIR':
    case 'EEXIST':
      return `${path} cannot be written to: a part of it is a file and not a folder.`;
    case 'EACCES':
    case 'EPERM':
      return `${path} cannot be written to: this user may not write there.`;
    case 'EROFS':
      return `${path} cannot be written to: it lies on a read-only file system.`;
    case 'ENOSPC':
      return `${path} cannot be written to: the disk is full.`;
    default:
      return `${path} cannot be written to: ${error instanceof Error ? error.message : String(error)}.`;
  }
}
