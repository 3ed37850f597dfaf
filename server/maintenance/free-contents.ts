import { existsSync, rmSync, statSync } from 'node:fs';
import { inTransaction, type Pool } from '../platform/database/pool.ts';
import { change, select, type Queryable } from '../platform/database/rows.ts';
import { largeFile, packFile, type ContentPlace } from '../store/layout.ts';
import { PackWriter } from '../store/pack-writer.ts';
import { ContentReader } from '../store/read-content.ts';

const batchRows = 2000;
const batchBytes = 16 * 1024 * 1024;
/** A pack is written anew when more than this share of it is dead. */
const deadShare = 0.25;

export interface Freed {
  contents: number;
  /** Bytes of the files that went, less those that were written. */
  bytes: number;
}

/**
 * Frees what no build holds any more: facts, contents, and the room that these take in the store. Stopped at any moment, it
 * goes on where it was. Nothing else may bring contents in meanwhile.
 */
export async function freeContents(
  pool: Pool,
  store: string,
  signal: AbortSignal,
  onProgress: (done: number, total: number) => void,
): Promise<Freed> {
  await change(
    pool,
    'DELETE f FROM content_facts f WHERE NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.hash = f.hash)',
  );
  await change(
    pool,
    'DELETE l FROM lost_contents l WHERE NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.hash = l.hash)',
  );
  for (const side of ['new_hash', 'old_hash'])
    await change(
      pool,
      `DELETE k FROM comparisons k WHERE NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.hash = k.${side})`,
    );
  const freed: Freed = { contents: 0, bytes: 0 };
  for (;;) {
    signal.throwIfAborted();
    const dead = await select<{ hash: Buffer; size: number; packId: number }>(
      pool,
      `SELECT c.hash, c.size, c.pack_id AS packId FROM contents c
        WHERE NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.hash = c.hash)
          AND NOT EXISTS (SELECT 1 FROM content_facts f WHERE f.preview_hash = c.hash)
          AND NOT EXISTS (SELECT 1 FROM comparisons k WHERE k.picture_hash = c.hash) LIMIT ?`,
      [batchRows],
    );
    if (dead.length === 0) break;
    await change(pool, 'DELETE FROM contents WHERE hash IN (?)', [dead.map(({ hash }) => hash)]);
    for (const { hash, size, packId } of dead) {
      if (packId !== 0) continue;
      rmSync(largeFile(store, hash.toString('hex')), { force: true });
      freed.bytes += size;
    }
    freed.contents += dead.length;
    onProgress(freed.contents, freed.contents);
  }
  freed.bytes += await tidyPacks(pool, store, signal);
  return freed;
}

/** Takes away packs without a living content, and writes those anew that are dead for a good part. @returns bytes freed */
async function tidyPacks(pool: Pool, store: string, signal: AbortSignal): Promise<number> {
  const packs = await select<{ id: number; bytes: number }>(
    pool,
    `SELECT p.id, COALESCE(SUM(c.size), 0) AS bytes FROM packs p LEFT JOIN contents c ON c.pack_id = p.id
      WHERE p.sealed = 1 GROUP BY p.id`,
  );
  let freed = 0;
  for (const { id, bytes } of packs) {
    signal.throwIfAborted();
    const path = packFile(store, id);
    const size = existsSync(path) ? statSync(path).size : 0;
    const living = Number(bytes);
    if (living > 0 && size - living <= size * deadShare) continue;
    freed += size - (living > 0 ? await rewrite(pool, store, id) : 0);
    await change(pool, 'DELETE FROM packs WHERE id = ?', [id]);
    rmSync(path, { force: true });
  }
  return freed;
}

/** Appends a pack's living contents to new packs, and has their rows point there. @returns bytes written */
async function rewrite(pool: Pool, store: string, packId: number): Promise<number> {
  const contents = await select<{ hash: Buffer; size: number; packOffset: number }>(
    pool,
    'SELECT hash, size, pack_offset AS packOffset FROM contents WHERE pack_id = ? ORDER BY pack_offset',
    [packId],
  );
  const reader = new ContentReader(store);
  const writer = new PackWriter(store);
  let written = 0;
  for (let from = 0; from < contents.length;) {
    const batch: { hash: Buffer; bytes: Uint8Array }[] = [];
    for (let bytes = 0; from < contents.length && bytes < batchBytes; from++) {
      const row = contents[from];
      if (!row) break;
      batch.push({ hash: row.hash, bytes: reader.read({ ...row, packId, hash: row.hash.toString('hex') }) });
      bytes += row.size;
    }
    const places = await writer.append(pool, batch);
    await inTransaction(pool, async (connection) => {
      for (const place of places) await move(connection, place);
    });
    written += batch.reduce((sum, { bytes }) => sum + bytes.length, 0);
  }
  // The old pack goes only when the new one is safe.
  await writer.seal(pool);
  reader.close();
  return written;
}

async function move(database: Queryable, { hash, packId, packOffset }: ContentPlace): Promise<void> {
  await change(database, 'UPDATE contents SET pack_id = ?, pack_offset = ? WHERE hash = ?', [
    packId,
    packOffset,
    Buffer.from(hash, 'hex'),
  ]);
}
