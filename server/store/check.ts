import { existsSync } from 'node:fs';
import type { Pool } from '../platform/database/pool.ts';
import { select } from '../platform/database/rows.ts';
import type { BrokenContent } from './content-store.ts';
import { hashOf, startHash } from './hash.ts';
import { placeFile } from './layout.ts';
import type { RemoteCopies } from './remote-copies.ts';
import { LocalReader, type LocalContent } from './local-content.ts';

const batchRows = 2000;
const pieceBytes = 4 * 1024 * 1024;

/** Reads every content in the order in which they lie. */
export async function checkContents(
  pool: Pool,
  folder: string,
  remote: RemoteCopies | null,
  signal: AbortSignal,
  onChecked: (bytes: number) => void,
): Promise<BrokenContent[]> {
  const broken: BrokenContent[] = [];
  const reader = new LocalReader();
  let copied = '';
  let at: { packId: number; packOffset: number; hash: Buffer } = {
    packId: -1,
    packOffset: 0,
    hash: Buffer.alloc(32),
  };
  for (;;) {
    signal.throwIfAborted();
    const rows = await select<{ hash: Buffer; size: number; packId: number; packOffset: number }>(
      pool,
      `SELECT hash, size, pack_id AS packId, pack_offset AS packOffset FROM contents
        WHERE (pack_id, pack_offset, hash) > (?, ?, ?) ORDER BY pack_id, pack_offset, hash LIMIT ?`,
      [at.packId, at.packOffset, at.hash, batchRows],
    );
    const last = rows.at(-1);
    if (!last) break;
    at = last;
    for (const { hash, size, packId, packOffset } of rows) {
      const text = hash.toString('hex');
      const place = { hash: text, size, packId, packOffset };
      const file = placeFile(folder, place);
      if (remote && file !== copied) {
        // What lies in the object store is checked, and not a copy of it.
        remote.forgetCopy(place);
        copied = file;
      }
      const content = remote
        ? (await remote.bring([place], true)).get(text)
        : { ...place, file, offset: packOffset };
      const reason = content ? reasonOf(reader, content) : 'the object store has no file that holds it';
      if (reason) broken.push({ hash, reason });
      onChecked(size);
      signal.throwIfAborted();
    }
    // The lease is renewed between batches.
    await new Promise((resolve) => setImmediate(resolve));
  }
  reader.close();
  return broken;
}

/** Why a content is not what was stored; null where it is. */
function reasonOf(reader: LocalReader, content: LocalContent): string | null {
  try {
    const hash = content.size <= pieceBytes ? hashOf(reader.read(content)) : hashInPieces(reader, content);
    return hash.toString('hex') === content.hash ? null : 'its bytes are not those that were stored';
  } catch {
    return existsSync(content.file) ? 'its end is missing' : 'the file that holds it is missing';
  }
}

function hashInPieces(reader: LocalReader, content: LocalContent): Buffer {
  const hash = startHash();
  for (let start = 0; start < content.size; start += pieceBytes)
    hash.update(reader.read(content, start, Math.min(content.size, start + pieceBytes)));
  return hash.digest();
}
