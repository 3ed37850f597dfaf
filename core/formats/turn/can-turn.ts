import { SheetError } from '../language/sheet-error.ts';
import type { OpenSheet } from '../open-sheet.ts';
import type { FileToRead } from '../read-by-sheet.ts';
import { bytesOfEntry, openEntries, putEntries } from './put-entries.ts';

/**
 * Whether files can be put back into a container, found out by doing it: the largest of its first files gets a byte more.
 * @returns why not; null where they can, and where the sheet describes no container
 */
export async function whyNotTurned(open: OpenSheet, file: FileToRead): Promise<string | null> {
  if (!open.result.entries) return null;
  try {
    const { entries } = await openEntries(open, file);
    const tried = entries
      .slice(0, 16)
      .map((entry, at) => ({ entry, at }))
      .sort((a, b) => b.entry.packedSize - a.entry.packedSize)[0];
    if (!tried) return 'there is nothing in it that could be tried';
    const bytes = await bytesOfEntry(tried.entry);
    const longer = new Uint8Array(bytes.length + 1);
    longer.set(bytes);
    await putEntries(open, file, new Map([[tried.at, longer]]));
    return null;
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    return error.message;
  }
}
