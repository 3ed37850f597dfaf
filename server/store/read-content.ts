import { closeSync, createReadStream, openSync, readSync } from 'node:fs';
import { open } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import type { Queryable } from '../platform/database/rows.ts';
import { select } from '../platform/database/rows.ts';
import { NotFoundError, PlainError } from '../platform/plain-error.ts';
import { placeFile, type ContentPlace } from './layout.ts';

interface PlaceRow {
  hash: Buffer;
  size: number;
  packId: number;
  packOffset: number;
}

/** Places of the contents among `hashes` that the store has, by hex hash. */
export async function findContents(
  database: Queryable,
  hashes: readonly string[],
): Promise<Map<string, ContentPlace>> {
  const places = new Map<string, ContentPlace>();
  for (let from = 0; from < hashes.length; from += 1000) {
    const rows = await select<PlaceRow>(
      database,
      'SELECT hash, size, pack_id AS packId, pack_offset AS packOffset FROM contents WHERE hash IN (?)',
      [hashes.slice(from, from + 1000).map((hash) => Buffer.from(hash, 'hex'))],
    );
    for (const row of rows) places.set(row.hash.toString('hex'), { ...row, hash: row.hash.toString('hex') });
  }
  return places;
}

/** @throws NotFoundError */
export async function findContent(database: Queryable, hash: string): Promise<ContentPlace> {
  const place = (await findContents(database, [hash])).get(hash);
  if (!place) throw new NotFoundError(`The store holds no content ${hash}.`);
  return place;
}

/** @throws PlainError when the store has fewer bytes than the tables say */
export async function readContent(store: string, place: ContentPlace): Promise<Buffer> {
  const file = await open(placeFile(store, place));
  try {
    const bytes = Buffer.allocUnsafe(place.size);
    const { bytesRead } = await file.read(bytes, 0, place.size, place.packOffset);
    if (bytesRead !== place.size) throw lostEnd(place);
    return bytes;
  } finally {
    await file.close();
  }
}

const keptOpen = 8;

/** Reads contents at once, without the event loop, and keeps the packs open that it reads from: for worker threads. */
export class ContentReader {
  private readonly store: string;
  private readonly files = new Map<string, number>();

  constructor(store: string) {
    this.store = store;
  }

  /** All of a content, or a part of it. @throws PlainError when the store has fewer bytes than the tables say */
  read(place: ContentPlace, start = 0, end = place.size): Buffer {
    const bytes = Buffer.allocUnsafeSlow(end - start);
    const file = this.fileOf(placeFile(this.store, place));
    if (readSync(file, bytes, 0, bytes.length, place.packOffset + start) !== bytes.length)
      throw lostEnd(place);
    return bytes;
  }

  close(): void {
    for (const file of this.files.values()) closeSync(file);
    this.files.clear();
  }

  private fileOf(path: string): number {
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

function lostEnd({ hash }: ContentPlace): PlainError {
  return new PlainError(`The store has lost the end of content ${hash}.`);
}

/** A part of a content as a stream; `end` is the last byte, as in HTTP ranges. */
export function streamContent(store: string, place: ContentPlace, start = 0, end = place.size - 1): Readable {
  if (place.size === 0) return createReadStream('/dev/null');
  return createReadStream(placeFile(store, place), {
    start: place.packOffset + start,
    end: place.packOffset + end,
  });
}
