import { readdirSync } from 'node:fs';
import { copyFile, cp, readFile } from 'node:fs/promises';
import { constants } from 'node:fs';
import { join, relative } from 'node:path';
import type { ArchiveCopy } from './archive-copy.ts';

/** A folder. */
export class FolderCopy implements ArchiveCopy {
  constructor(private readonly folder: string) {}

  async names(): Promise<string[]> {
    return filesBelow(this.folder);
  }

  read(name: string): Promise<Buffer> {
    return readFile(join(this.folder, name));
  }

  async write(target: string, changed: ReadonlyMap<string, string>): Promise<string[]> {
    await cp(this.folder, target, {
      ...{
        recursive: true,
        errorOnExist: true,
        force: false,
        preserveTimestamps: true,
        verbatimSymlinks: true,
      },
      mode: constants.COPYFILE_FICLONE,
    });
    for (const [name, file] of changed) await copyFile(file, join(target, name));
    return [];
  }

  close(): void {
    // Nothing is open.
  }
}

/** Files of a folder and below it, with `/`; links are not followed. */
export function filesBelow(folder: string): string[] {
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => relative(folder, join(entry.parentPath, entry.name)))
    .sort();
}
