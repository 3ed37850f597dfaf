import { readFileSync, statSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { basename, dirname } from 'node:path';
import { SheetError } from '../../../core/formats/language/sheet-error.ts';
import { sentence } from '../../../core/formats/by-sheet.ts';
import type { OpenSheet } from '../../../core/formats/open-sheet.ts';
import type { SheetEntry } from '../../../core/formats/results/lists.ts';
import {
  bytesOfEntry,
  mostTurnedBytes,
  openEntries,
  putEntries,
} from '../../../core/formats/turn/put-entries.ts';
import { sisterIn } from '../../ingest/read-by-sheet.ts';
import { PlainError } from '../../platform/plain-error.ts';
import type { ArchiveCopy } from './archive-copy.ts';

/** A container that a sheet describes. */
export class SheetCopy implements ArchiveCopy {
  private readonly file: Parameters<typeof openEntries>[1];
  private opening: Promise<Map<string, { at: number; entry: SheetEntry }>> | null = null;

  /**
   * @param path where it is called so, and files that belong to it lie beside it: a copy that has no name yet is read as if it were
   *   there
   */
  constructor(
    private readonly open: OpenSheet,
    content: string,
    path: string,
  ) {
    const { size } = statSync(content);
    if (size > mostTurnedBytes)
      throw new PlainError(
        `${content} is larger than 512 MiB, and files are put back by a sheet in memory: it is left alone.`,
      );
    const name = basename(path);
    const beside = sisterIn(dirname(path));
    this.file = { bytes: readFileSync(content), path: name, resolve: (other) => beside(name, other) };
  }

  async names(): Promise<string[]> {
    return [...(await this.entries()).keys()];
  }

  async read(name: string): Promise<Buffer> {
    const found = (await this.entries()).get(name);
    if (!found) throw new PlainError(`it has no ${name}`);
    const bytes = await this.bySheet(() => bytesOfEntry(found.entry));
    return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  async write(target: string, changed: ReadonlyMap<string, string>): Promise<string[]> {
    const entries = await this.entries();
    const contents = new Map<number, Uint8Array>();
    for (const [name, file] of changed) {
      const found = entries.get(name);
      if (found) contents.set(found.at, readFileSync(file));
    }
    const { bytes, notes } = await this.bySheet(() => putEntries(this.open, this.file, contents));
    await writeFile(target, bytes, { flag: 'wx' });
    return notes;
  }

  close(): void {
    // Nothing is open.
  }

  private entries(): Promise<Map<string, { at: number; entry: SheetEntry }>> {
    return (this.opening ??= this.bySheet(async () => {
      const { entries } = await openEntries(this.open, this.file);
      const named = new Map<string, { at: number; entry: SheetEntry }>();
      for (const [at, entry] of entries.entries()) {
        const name = entry.name.replaceAll('\\', '/').replace(/^(\.?\/)+/, '');
        if (named.has(name)) throw new SheetError(`two of its entries are called ${name}`);
        named.set(name, { at, entry });
      }
      return named;
    }));
  }

  private async bySheet<Made>(make: () => Promise<Made>): Promise<Made> {
    try {
      return await make();
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      throw new PlainError(`${this.file.path}: ${sentence(this.open, error)}`);
    }
  }
}
