import { closeSync, openSync, readSync, fstatSync } from 'node:fs';
import { startHash } from '../../store/hash.ts';
import { signatureOf } from './file-signature.ts';

/** Bytes that can be read from anywhere: a file, a part of one, or memory. Reading is synchronous: workers only. */
export interface ByteSource {
  readonly size: number;
  /** Of the file that holds these bytes and no others; null where there is none. */
  readonly path: string | null;
  /** Fewer bytes than asked for at the end. The result is a view that the next reading may overwrite: copy it to keep it. */
  read(offset: number, length: number): Uint8Array;
}

const windowBytes = 4 * 1024 * 1024;
const jumpBytes = 64 * 1024;
const pieceBytes = 1024 * 1024;
/** Windows of files that were closed: making a buffer for each of many small files cost more than reading them. */
const spareWindows: Buffer[] = [];

/** A file read through a window of 4 MiB: neighbouring small reads cost one call to the system. */
export class FileSource implements ByteSource {
  readonly size: number;
  readonly path: string | null;
  private readonly file: number;
  private readonly window: Buffer = spareWindows.pop() ?? Buffer.allocUnsafeSlow(windowBytes);
  private windowStart = 0;
  private windowLength = 0;

  /** @param path as bytes where its name is not UTF-8 */
  constructor(path: string | Buffer) {
    this.path = typeof path === 'string' ? path : null;
    this.file = openSync(path, 'r');
    this.size = fstatSync(this.file).size;
  }

  read(offset: number, length: number): Uint8Array {
    const wanted = Math.max(0, Math.min(length, this.size - offset));
    if (wanted > windowBytes) return this.fill(Buffer.allocUnsafe(wanted), offset, wanted);
    const end = this.windowStart + this.windowLength;
    if (offset < this.windowStart || offset + wanted > end) {
      // Whoever jumps may jump on: headers far apart, and not what lies between them.
      const ahead = offset > end + windowBytes ? Math.max(wanted, jumpBytes) : windowBytes;
      this.windowLength = this.fill(this.window, offset, Math.min(ahead, this.size - offset)).length;
      this.windowStart = offset;
    }
    return this.window.subarray(
      offset - this.windowStart,
      Math.min(offset - this.windowStart + wanted, this.windowLength),
    );
  }

  /** The file's state now. See `signatureOf`. */
  signature(): string {
    return signatureOf(fstatSync(this.file));
  }

  close(): void {
    closeSync(this.file);
    this.windowLength = 0;
    spareWindows.push(this.window);
  }

  private fill(bytes: Buffer, offset: number, wanted: number): Buffer {
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
  readonly path = null;
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
  readonly path = null;
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

/** All of a source, in pieces that may be kept. */
export function* pieces(source: ByteSource): Generator<Buffer> {
  for (let at = 0; at < source.size; at += pieceBytes) yield Buffer.from(source.read(at, pieceBytes));
}

/** BLAKE3 of all of a source. */
export function hashSource(source: ByteSource): Buffer {
  const hash = startHash();
  for (let at = 0; at < source.size; at += pieceBytes) hash.update(source.read(at, pieceBytes));
  return hash.digest();
}
