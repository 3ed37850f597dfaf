import { createReadStream, createWriteStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { extract, pack } from 'tar-stream';
import { PlainError } from '../../platform/plain-error.ts';
import type { ArchiveCopy } from './archive-copy.ts';

/** A TAR that is not compressed: entries keep their order, times, owners and rights. */
export class TarCopy implements ArchiveCopy {
  constructor(private readonly path: string) {}

  async names(): Promise<string[]> {
    const names: string[] = [];
    for await (const entry of createReadStream(this.path).pipe(extract())) {
      if (entry.header.type === 'file') names.push(plain(entry.header.name));
      entry.resume();
    }
    return names;
  }

  async read(name: string): Promise<Buffer> {
    for await (const entry of createReadStream(this.path).pipe(extract())) {
      if (entry.header.type === 'file' && plain(entry.header.name) === name) {
        const pieces: Buffer[] = [];
        for await (const piece of entry) pieces.push(piece as Buffer);
        return Buffer.concat(pieces);
      }
      entry.resume();
    }
    throw new PlainError(`it has no ${name}`);
  }

  async write(target: string, changed: ReadonlyMap<string, string>): Promise<string[]> {
    const packer = pack();
    const written = pipeline(packer, createWriteStream(target, { flags: 'wx' }));
    for await (const entry of createReadStream(this.path).pipe(extract())) {
      const { header } = entry;
      const file = header.type === 'file' ? changed.get(plain(header.name)) : undefined;
      if (file !== undefined) {
        entry.resume();
        const bytes = await readFile(file);
        // Its size may stand in a record of its own, too.
        const pax = Object.fromEntries(Object.entries(header.pax ?? {}).filter(([key]) => key !== 'size'));
        packer.entry({ ...header, size: bytes.length, pax }, bytes);
        continue;
      }
      const next = packer.entry(header);
      await pipeline(entry, next);
    }
    packer.finalize();
    await written;
    return [];
  }

  close(): void {
    // Nothing is open.
  }
}

/** Without the `./` that some begin with. */
function plain(name: string): string {
  return name.replace(/^\.\//, '');
}
