import { join } from 'node:path';
import type { Readable } from 'node:stream';
import yazl from 'yazl';

/** A day that says nothing: the same files give the same archive. */
const mtime = new Date('1980-01-02T00:00:00Z');

/** Finished files as a ZIP, stored as they are, while it is read: nothing of it lies in memory. */
export function zipOf(folder: string, names: readonly string[]): Readable {
  const zip = new yazl.ZipFile();
  for (const name of names) zip.addFile(join(folder, name), name, { compress: false, mtime, mode: 0o100644 });
  zip.end();
  return zip.outputStream as Readable;
}
