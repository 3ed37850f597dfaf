import { mkdir, rename, rm, stat, link, copyFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { WrittenFile } from '../../contract/hauls.ts';
import type { StagedFile } from '../decode/operations.ts';
import { PlainError, codeOf } from '../platform/plain-error.ts';

/**
 * Gives files that were written their names, which nothing had before: a file is there whole, or not at all.
 * @param stem where they go, without their endings
 * @param mayReplace whether what an earlier run left may be replaced
 * @throws PlainError that says which name is taken, or what the file system refuses
 */
export async function putInPlace(
  files: readonly StagedFile[],
  folder: string,
  stem: string,
  mayReplace: boolean,
): Promise<WrittenFile[]> {
  const placed: WrittenFile[] = [];
  for (const { ending, file, bytes, sha256, blake3 } of files) {
    const target = `${stem}${ending}`;
    const path = join(folder, target);
    try {
      await mkdir(dirname(path), { recursive: true });
      if (mayReplace) await rename(file, path);
      else await placeNew(file, path);
    } catch (error) {
      throw placeError(path, error);
    }
    placed.push({ target, bytes, sha256, blake3 });
  }
  return placed;
}

/** A link takes no name that is taken, which a renaming does. */
async function placeNew(file: string, path: string): Promise<void> {
  try {
    await link(file, path);
  } catch (error) {
    // File systems without links: looked for first, which is nearly as good.
    if (codeOf(error) !== 'EPERM' && codeOf(error) !== 'ENOTSUP' && codeOf(error) !== 'EXDEV') throw error;
    if (await isThere(path)) throw Object.assign(new Error('taken'), { code: 'EEXIST' });
    await copyFile(file, path);
  }
  await rm(file, { force: true });
}

async function isThere(path: string): Promise<boolean> {
  return stat(path).then(
    () => true,
    () => false,
  );
}

function placeError(path: string, error: unknown): PlainError {
  switch (codeOf(error)) {
    case 'EEXIST':
      return new PlainError(`${path} is there already, and is not overwritten.`);
    case 'ENOSPC':
      return new PlainError(`There is no room left for ${path}.`);
    case 'EACCES':
    case 'EPERM':
    case 'EROFS':
      return new PlainError(`${path} cannot be written: this user may not write there.`);
    case 'ENAMETOOLONG':
      return new PlainError(`${path} has a longer name than the file system takes.`);
    case 'ENOTDIR':
      return new PlainError(`${path} cannot be written: a file lies where a folder should be.`);
    default:
      return new PlainError(
        `${path} cannot be written: ${error instanceof Error ? error.message : String(error)}.`,
      );
  }
}
