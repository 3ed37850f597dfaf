import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { containerOf } from '../../core/containers/container-format.ts';
import { checkEntryName } from '../../core/containers/entry-name.ts';
import { isPlacedFormat, placedListers } from './containers/placed-listers.ts';
import { FileSource } from './containers/byte-source.ts';
import { listSevenZip } from './containers/seven-zip.ts';
import { passingEntries } from './containers/solid.ts';
import { listZip } from './containers/zip.ts';
import type { SourceKind } from './source-path.ts';

/**
 * The folder of a source that the paths of a build count from.
 * @param wanted somebody's own, or that of the build before; where the source lacks it, or nobody says, the lowest folder
 *   that holds everything
 * @param isFound whether `wanted` was found before and nobody said it: then it must hold everything still
 * @returns relative to the source; empty for the source itself
 */
export async function findContentRoot(
  source: string,
  kind: SourceKind,
  wanted: string | null,
  isFound: boolean,
): Promise<string> {
  const tidy =
    wanted === null
      ? null
      : wanted
          .replaceAll('\\', '/')
          .split('/')
          .filter((part) => part !== '' && part !== '.' && part !== '..')
          .join('/');
  if (tidy === '') return '';
  if (kind === 'folder') {
    const isThere = tidy !== null && statSync(join(source, tidy), { throwIfNoEntry: false })?.isDirectory();
    if (isThere && !isFound) return tidy;
    const lowest = lowestFolder(source);
    // Everything is still in the folder that the paths counted from: they stay as they are.
    return isThere && (lowest === tidy || lowest.startsWith(`${tidy}/`)) ? tidy : lowest;
  }
  const common = await commonFolder(source);
  return tidy !== null && (common === tidy || common.startsWith(`${tidy}/`)) ? tidy : common;
}

/** Goes down as long as a folder holds one folder and nothing else. */
function lowestFolder(source: string): string {
  let root = '';
  for (;;) {
    const items = readdirSync(join(source, root), { withFileTypes: true });
    const [only] = items;
    if (items.length !== 1 || !only?.isDirectory() || only.name.includes('\ufffd')) return root;
    root = root === '' ? only.name : `${root}/${only.name}`;
  }
}

/** The lowest folder that holds all entries of an archive; empty where it is no archive, or cannot be listed. */
async function commonFolder(path: string): Promise<string> {
  const source = new FileSource(path);
  try {
    let common: string[] | null = null;
    for await (const name of names(source, path)) {
      const { path: inner, refused } = checkEntryName(name);
      if (refused !== null) continue;
      const folders = inner.split('/').slice(0, -1);
      if (common === null) common = folders;
      else {
        let length = 0;
        while (length < common.length && common[length] === folders[length]) length++;
        common = common.slice(0, length);
      }
      if (common.length === 0) return '';
    }
    return common?.join('/') ?? '';
  } catch {
    // Reading it will say what is wrong with it.
    return '';
  } finally {
    source.close();
  }
}

async function* names(source: FileSource, path: string): AsyncGenerator<string> {
  const format = containerOf((offset, length) => source.read(offset, length), path);
  if (format === 'zip') {
    for (const entry of await listZip(source)) if (!entry.isFolder) yield entry.name;
  } else if (format && isPlacedFormat(format)) {
    for (const entry of placedListers[format](source)) if (entry.type !== 'folder') yield entry.name;
  } else if (format === '7z' || format === 'udf') {
    for (const entry of await listSevenZip(format, path, null)) if (!entry.isFolder) yield entry.name;
  } else if (format) {
    for await (const entry of passingEntries(format, source, path, null))
      if (entry.type !== 'folder') yield entry.name;
  }
}
