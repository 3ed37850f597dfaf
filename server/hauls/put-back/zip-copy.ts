import { createWriteStream, readFileSync, type WriteStream } from 'node:fs';
import { once } from 'node:events';
import { crc32, deflateRawSync } from 'node:zlib';
import { UnpackingBudget } from '../../../core/containers/unpacking-budget.ts';
import { FileSource, type ByteSource } from '../../ingest/containers/byte-source.ts';
import { listZip, packedPart, unpackEntry, type ZipEntry } from '../../ingest/containers/zip.ts';
import { PlainError } from '../../platform/plain-error.ts';
import type { ArchiveCopy } from './archive-copy.ts';

const [stored, deflated] = [0, 8];
const endBytes = 22;
const mostCommentBytes = 0xffff;
const most32 = 0xffff_ffff;
const pieceBytes = 4 * 1024 * 1024;

/** A record of the central directory as it lies, and where its local header begins (APPNOTE 4.3.12). */
interface DirectoryRecord {
  bytes: Buffer;
  headerOffset: number;
}

/**
 * A ZIP whose copy differs in the files that are put back, and in nothing else: every other entry is taken over as it lies, packed
 * bytes, names, times and all. A file is packed by the method that it had.
 */
export class ZipCopy implements ArchiveCopy {
  private readonly source: FileSource;
  private entries: ZipEntry[] = [];

  constructor(path: string) {
    this.source = new FileSource(path);
  }

  /** @throws ContainerError for a damaged directory, PlainError for an archive of more than 4 GiB */
  async names(): Promise<string[]> {
    this.entries = await listZip(this.source);
    if (this.source.size >= most32)
      throw new PlainError('it is larger than 4 GiB: such archives are not written yet');
    return this.entries.filter(({ isFolder }) => !isFolder).map(({ name }) => name);
  }

  async read(name: string): Promise<Buffer> {
    const entry = this.entryOf(name);
    if (entry.isEncrypted) throw new PlainError(`${name} is locked: it cannot be put back`);
    refuseMethod(entry);
    return Buffer.from(unpackEntry(this.source, entry, new UnpackingBudget(this.source.size)));
  }

  async write(target: string, changed: ReadonlyMap<string, string>): Promise<string[]> {
    const records = directoryOf(this.source, this.entries.length);
    const output = createWriteStream(target, { flags: 'wx' });
    const writer = new Writer(output);
    try {
      const begin = this.entries[0]?.headerOffset ?? records.start;
      await writer.copy(this.source, 0, begin);
      const directory: Buffer[] = [];
      for (const [at, entry] of this.entries.entries()) {
        const record = records.records.get(entry.headerOffset);
        if (!record) throw new PlainError(`${entry.name} is not in the archive’s directory`);
        const file = changed.get(entry.name);
        const offset = writer.length;
        const next = this.entries[at + 1]?.headerOffset ?? records.start;
        const bytes = Buffer.from(record.bytes);
        if (file === undefined) await writer.copy(this.source, entry.headerOffset, next);
        else await this.writeChanged(writer, entry, bytes, readFileSync(file));
        bytes.writeUInt32LE(offset, 42);
        directory.push(bytes);
      }
      const start = writer.length;
      // In the order in which the directory had them.
      const order = [...records.records.values()].map(({ headerOffset }) =>
        this.entries.findIndex((entry) => entry.headerOffset === headerOffset),
      );
      for (const at of order) await writer.write(directory[at] ?? Buffer.alloc(0));
      const end = Buffer.from(records.end);
      end.writeUInt32LE(writer.length - start, 12);
      end.writeUInt32LE(start, 16);
      await writer.write(end);
    } finally {
      output.end();
      await once(output, 'close');
    }
    return [];
  }

  close(): void {
    this.source.close();
  }

  private entryOf(name: string): ZipEntry {
    const entry = this.entries.find((one) => one.name === name);
    if (!entry) throw new PlainError(`it has no ${name}`);
    return entry;
  }

  /** @param record of the directory, which is told of the new sizes */
  private async writeChanged(writer: Writer, entry: ZipEntry, record: Buffer, bytes: Buffer): Promise<void> {
    refuseMethod(entry);
    const packed = entry.method === stored ? bytes : deflateRawSync(bytes, { level: 9 });
    const header = Buffer.from(this.source.read(entry.headerOffset, 30));
    const names = header.readUInt16LE(26) + header.readUInt16LE(28);
    const rest = Buffer.from(this.source.read(entry.headerOffset + 30, names));
    const sum = crc32(bytes);
    // Sizes stand in the header itself: no record behind the bytes tells of them (bit 3).
    header.writeUInt16LE(header.readUInt16LE(6) & ~0x0008, 6);
    for (const [part, at] of [
      [header, 14],
      [record, 16],
    ] as const) {
      part.writeUInt32LE(sum, at);
      part.writeUInt32LE(packed.length, at + 4);
      part.writeUInt32LE(bytes.length, at + 8);
    }
    record.writeUInt16LE(record.readUInt16LE(8) & ~0x0008, 8);
    await writer.write(Buffer.concat([header, rest, packed]));
  }
}

/** @throws PlainError for what is not packed here */
function refuseMethod({ name, method }: ZipEntry): void {
  if (method !== stored && method !== deflated)
    throw new PlainError(`${name} is packed by method ${method}, which is not written yet`);
}

/** Whether two entries of two archives are the same, packed bytes and all. */
export function areSamePacked(a: ByteSource, one: ZipEntry, b: ByteSource, other: ZipEntry): boolean {
  if (one.crc !== other.crc || one.packedBytes !== other.packedBytes || one.method !== other.method)
    return false;
  const [first, second] = [packedPart(a, one), packedPart(b, other)];
  for (let at = 0; at < one.packedBytes; at += pieceBytes)
    if (!Buffer.from(first.read(at, pieceBytes)).equals(Buffer.from(second.read(at, pieceBytes))))
      return false;
  return true;
}

class Writer {
  length = 0;

  constructor(private readonly output: WriteStream) {}

  async write(bytes: Buffer): Promise<void> {
    this.length += bytes.length;
    if (!this.output.write(bytes)) await once(this.output, 'drain');
  }

  async copy(source: ByteSource, from: number, to: number): Promise<void> {
    for (let at = from; at < to; at += pieceBytes)
      // A view that the next reading overwrites: it is copied before.
      await this.write(Buffer.from(source.read(at, Math.min(pieceBytes, to - at))));
  }
}

/** The central directory as it lies, by the places of local headers, in its own order. @throws PlainError where it is not found */
function directoryOf(
  source: ByteSource,
  count: number,
): { start: number; end: Buffer; records: Map<number, DirectoryRecord> } {
  const from = Math.max(0, source.size - endBytes - mostCommentBytes);
  const tail = Buffer.from(source.read(from, source.size - from));
  const at = tail.lastIndexOf(Buffer.from([0x50, 0x4b, 0x05, 0x06]));
  if (at < 0) throw new PlainError('its directory has no end');
  const end = tail.subarray(at);
  const start = end.readUInt32LE(16);
  const directory = Buffer.from(source.read(start, end.readUInt32LE(12)));
  const records = new Map<number, DirectoryRecord>();
  for (let next = 0; next + 46 <= directory.length && directory.readUInt32LE(next) === 0x02014b50;) {
    const length =
      46 +
      directory.readUInt16LE(next + 28) +
      directory.readUInt16LE(next + 30) +
      directory.readUInt16LE(next + 32);
    const headerOffset = directory.readUInt32LE(next + 42);
    records.set(headerOffset, { bytes: directory.subarray(next, next + length), headerOffset });
    next += length;
  }
  if (records.size !== count)
    throw new PlainError(
      'its directory has fields of 64 bits or is not where it says: it is not written yet',
    );
  return { start, end, records };
}
