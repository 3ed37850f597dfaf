import { closeSync, createReadStream, openSync, readSync } from 'node:fs';
import { open } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { PlainError } from '../platform/plain-error.ts';

/** A content that every process of this machine can read: a part of a file. */
export interface LocalContent {
  /** 64 hex digits. */
  hash: string;
  size: number;
  file: string;
  /** Where in the file its bytes begin. */
  offset: number;
}

/** All of a content. @throws PlainError where the file has fewer bytes than that */
export async function readLocal(content: LocalContent): Promise<Buffer> {
  const { size, offset } = content;
  const file = await open(content.file);
  try {
    const bytes = Buffer.allocUnsafe(size);
    const { bytesRead } = await file.read(bytes, 0, size, offset);
    if (bytesRead !== size) throw lostEnd(content);
    return bytes;
  } finally {
    await file.close();
  }
}

/** A part of a content as a stream; `end` is the last byte, as in HTTP ranges. */
export function streamLocal({ size, file, offset }: LocalContent, start = 0, end = size - 1): Readable {
  if (size === 0) return createReadStream('/dev/null');
  return createReadStream(file, { start: offset + start, end: offset + end });
}

const keptOpen = 8;

/** Reads contents at once, without the event loop, and keeps the files open that it reads from: for threads and processes. */
export class LocalReader {
  private readonly files = new Map<string, number>();

  /** All of a content, or a part of it. @throws PlainError where the file has fewer bytes than that */
  read(content: LocalContent, start = 0, end = content.size): Buffer {
    const bytes = Buffer.allocUnsafeSlow(end - start);
    const file = this.open(content.file);
    if (readSync(file, bytes, 0, bytes.length, content.offset + start) !== bytes.length)
      throw lostEnd(content);
    return bytes;
  }

  close(): void {
    for (const file of this.files.values()) closeSync(file);
    this.files.clear();
  }

  private open(path: string): number {
    const file = this.files.get(path) ?? openSync(path, 'r');
    this.files.delete(path);
    this.files.set(path, file);
    for (const [oldest, open] of this.files) {
      if (this.files.size <= keptOpen) break;
      closeSync(open);
      this.files.delete(oldest);
    }
    return file;
  }
}

function lostEnd({ hash }: LocalContent): PlainError {
  return new PlainError(`The store has lost the end of content ${hash}.`);
}
