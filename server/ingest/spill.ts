import { randomUUID } from 'node:crypto';
import { closeSync, openSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import type { UnpackingBudget } from '../../core/containers/unpacking-budget.ts';
import { FileSource, MemorySource } from './containers/byte-source.ts';
import { startHash } from '../store/hash.ts';
import { ownerName } from '../platform/process-mark.ts';
import { temporaryName } from '../store/temporary-name.ts';
import type { FoundAsset } from './recorder.ts';
import type { OpenContainer } from './unit-context.ts';

/** What is unpacked is kept in memory up to this size, and in a temporary file above it. */
export const nestedInMemoryBytes = 32 * 1024 * 1024;

/**
 * Takes in what is unpacked piece by piece, and has it read.
 * @param size in bytes; null where only the end tells
 * @param charge charged for every piece, where nobody charged for the whole before
 */
export async function spill(
  container: OpenContainer,
  found: FoundAsset,
  body: AsyncIterable<Buffer>,
  size: number | null = found.size,
  charge: UnpackingBudget | null = null,
): Promise<void> {
  const { context } = container;
  const kept: Buffer[] = [];
  let length = 0;
  let file: SpillFile | null =
    size !== null && size > nestedInMemoryBytes ? new SpillFile(context.temporary) : null;
  try {
    for await (const piece of body) {
      charge?.spend(piece.length);
      length += piece.length;
      if (!file && length > nestedInMemoryBytes) {
        file = new SpillFile(context.temporary);
        for (const earlier of kept.splice(0)) file.write(earlier);
      }
      if (file) file.write(piece);
      // A view of what the unpacker may write over.
      else kept.push(Buffer.from(piece));
      await context.checkpoint();
    }
    if (!file) {
      await container.readInner(
        { ...found, size: length },
        { bytes: new MemorySource(Buffer.concat(kept)), file: null },
      );
      return;
    }
    const { path, hash } = file.end();
    const bytes = new FileSource(path);
    try {
      await container.readInner({ ...found, size: length }, { bytes, file: { path, hash } });
    } finally {
      bytes.close();
    }
  } finally {
    file?.remove();
  }
}

/** A temporary file that is hashed while it is written. */
export class SpillFile {
  readonly path: string;
  private readonly file: number;
  private readonly hash = startHash();
  private isOpen = true;
  size = 0;

  constructor(folder: string) {
    this.path = join(folder, temporaryName(ownerName(), randomUUID()));
    this.file = openSync(this.path, 'wx', 0o600);
  }

  write(piece: Uint8Array): void {
    this.hash.update(piece);
    this.size += piece.length;
    for (let at = 0; at < piece.length;) at += writeSync(this.file, piece, at);
  }

  end(): { path: string; hash: Buffer; size: number } {
    this.close();
    return { path: this.path, hash: this.hash.digest(), size: this.size };
  }

  /** Takes it away, unless somebody has moved it to where it stays. */
  remove(): void {
    this.close();
    rmSync(this.path, { force: true });
  }

  private close(): void {
    if (this.isOpen) closeSync(this.file);
    this.isOpen = false;
  }
}
