import { closeSync, fsync as fsyncWithCallback, mkdirSync, openSync, renameSync, writevSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { dirname } from 'node:path';
import { promisify } from 'node:util';
import type { Queryable } from '../platform/database/rows.ts';
import { change } from '../platform/database/rows.ts';
import { ownerName } from '../platform/process-mark.ts';
import type { RemoteCopies } from './remote-copies.ts';
import { largeFile, packBytes, packFile, type ContentPlace } from './layout.ts';

/** What stands before each content. */
export const headerBytes = 48;
const fsync = promisify(fsyncWithCallback);

/**
 * Appends contents to a pack that nobody else writes to. A record is `WVC1`, four zero bytes, the size as a
 * little-endian 64-bit number, the hash, then the content: a pack tells what it holds without the database.
 * A content counts as stored when its row is in `contents`; bytes of a writer that was killed before are dead
 * weight at the end of its pack and nothing else.
 */
export class PackWriter {
  private readonly store: string;
  private readonly remote: RemoteCopies | null;
  private open: { id: number; file: number; length: number } | null = null;

  /** @param remote where packs are put once they are whole: each append is one then, since others read it there */
  constructor(store: string, remote: RemoteCopies | null = null) {
    this.store = store;
    this.remote = remote;
  }

  /** @param contents each of at most `largeContentBytes` */
  async append(
    database: Queryable,
    contents: readonly { hash: Buffer; bytes: Uint8Array }[],
  ): Promise<ContentPlace[]> {
    if (contents.length === 0) return [];
    const pack = (this.open ??= await this.startPack(database));
    const pieces: Uint8Array[] = [];
    const places: ContentPlace[] = [];
    for (const { hash, bytes } of contents) {
      const header = Buffer.alloc(headerBytes);
      header.write('WVC1', 0, 'latin1');
      header.writeBigUInt64LE(BigInt(bytes.length), 8);
      hash.copy(header, 16);
      pieces.push(header, bytes);
      pack.length += headerBytes;
      places.push({
        hash: hash.toString('hex'),
        size: bytes.length,
        packId: pack.id,
        packOffset: pack.length,
      });
      pack.length += bytes.length;
    }
    writeAll(pack.file, pieces);
    if (pack.length > packBytes || this.remote) await this.seal(database);
    return places;
  }

  /** Makes what was appended outlast a power cut, and closes the pack for good. */
  async seal(database: Queryable): Promise<void> {
    if (!this.open) return;
    const { id, file } = this.open;
    this.open = null;
    await fsync(file);
    closeSync(file);
    await this.remote?.putPack(id);
    await change(database, 'UPDATE packs SET sealed = 1 WHERE id = ?', [id]);
  }

  private async startPack(database: Queryable): Promise<{ id: number; file: number; length: number }> {
    const { insertId } = await change(database, 'INSERT INTO packs (owner) VALUES (?)', [ownerName()]);
    const path = packFile(this.store, insertId);
    mkdirSync(dirname(path), { recursive: true });
    return { id: insertId, file: openSync(path, 'ax', 0o600), length: 0 };
  }
}

/** Moves a finished temporary file to where a large content lies: whole or not there at all. */
export function keepLargeFile(store: string, temporary: string, hash: string): void {
  const path = largeFile(store, hash);
  mkdirSync(dirname(path), { recursive: true });
  renameSync(temporary, path);
}

/** Makes a large content outlast a power cut: before its row is written. */
export async function syncLargeFile(store: string, hash: string): Promise<void> {
  const file = await open(largeFile(store, hash), 'r');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}

function writeAll(file: number, pieces: Uint8Array[]): void {
  // The system takes at most 1024 pieces at once, and may take fewer bytes than it was given.
  for (let from = 0; from < pieces.length; from += 1000) {
    let rest = pieces.slice(from, from + 1000).filter((piece) => piece.length > 0);
    while (rest.length > 0) {
      let written = writevSync(file, rest);
      while (rest[0] && written >= rest[0].length) {
        written -= rest[0].length;
        rest = rest.slice(1);
      }
      if (rest[0] && written > 0) rest = [rest[0].subarray(written), ...rest.slice(1)];
    }
  }
}
