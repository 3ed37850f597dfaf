import { closeSync, openSync, readSync, fstatSync } from 'node:fs';

/** Bytes that can be read from anywhere: a file, a part of one, or memory. Reading is synchronous: workers only. */
export interface ByteSource {
  readonly size: number;
  /** Fewer bytes than asked for at the end. The result may be a view of a cache: copy it to keep it. */
  read(offset: number, length: number): Uint8Array;
}

const windowBytes = 1024 * 1024;

/** A file read through a window of 1 MiB: neighbouring small reads cost one call to the system. */
export class FileSource implements ByteSource {
  readonly size: number;
  private readonly file: number;
  private window: Buffer = Buffer.alloc(0);
  private windowStart = 0;

  constructor(path: string) {
    this.file = openSync(path, 'r');
    this.size = fstatSync(this.file).size;
  }

  read(offset: number, length: number): Uint8Array {
    if (length > windowBytes) return this.readFresh(offset, length);
    if (offset < this.windowStart || offset + length > this.windowStart + this.window.length) {
      this.window = this.readFresh(offset, windowBytes);
      this.windowStart = offset;
    }
    return this.window.subarray(offset - this.windowStart, offset - this.windowStart + length);
  }

  close(): void {
    closeSync(this.file);
  }

  private readFresh(offset: number, length: number): Buffer {
    const wanted = Math.max(0, Math.min(length, this.size - offset));
    const bytes = Buffer.allocUnsafe(wanted);
    let done = 0;
    while (done < wanted) {
      const count = readSync(this.file, bytes, done, wanted - done, offset + done);
      if (count === 0) break;
      done += count;
    }
    return bytes.subarray(0, done);
  }
}

export class MemorySource implements ByteSource {
  readonly size: number;
  private readonly bytes: Uint8Array;

  constructor(bytes: Uint8Array) {
    this.bytes = bytes;
    this.size = bytes.length;
  }

  read(offset: number, length: number): Uint8Array {
    return this.bytes.subarray(offset, offset + length);
  }
}

/** A stretch of another source: an archive that lies stored in an archive is read in place. */
export class PartSource implements ByteSource {
  readonly size: number;
  private readonly whole: ByteSource;
  private readonly start: number;

  constructor(whole: ByteSource, start: number, size: number) {
    this.whole = whole;
    this.start = start;
    this.size = Math.max(0, Math.min(size, whole.size - start));
  }

  read(offset: number, length: number): Uint8Array {
    return this.whole.read(this.start + offset, Math.max(0, Math.min(length, this.size - offset)));
  }
}
