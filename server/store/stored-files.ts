import { readdirSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';

/** What lies in a store: sizes in bytes of packs by their number, and of large contents by their hash. */
export interface StoredFiles {
  packs: Map<number, number>;
  large: Map<string, number>;
}

/** Files of a folder and of those in it; none where it is not there. */
export function filesBelow(folder: string): string[] {
  try {
    return readdirSync(folder, { withFileTypes: true, recursive: true }).flatMap((item) =>
      item.isFile() ? [join(item.parentPath, item.name)] : [],
    );
  } catch {
    // Nothing was put there yet.
    return [];
  }
}

/** What lies in a store's folder. */
export function filesOfFolder(store: string): StoredFiles {
  const sized = (folder: string): (readonly [string, number])[] =>
    filesBelow(join(store, folder)).map((file) => [
      basename(file),
      statSync(file, { throwIfNoEntry: false })?.size ?? 0,
    ]);
  return {
    packs: new Map(sized('packs').map(([name, bytes]) => [packNumber(name), bytes])),
    large: new Map(sized('large')),
  };
}

/** The number of a pack, by the name of its file. */
export function packNumber(name: string): number {
  return Number.parseInt(basename(name), 10);
}
