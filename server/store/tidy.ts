import { rmSync } from 'node:fs';
import { inTransaction, type Pool } from '../platform/database/pool.ts';
import { change, select, type Queryable } from '../platform/database/rows.ts';
import { packFile, type ContentPlace } from './layout.ts';
import type { RemoteCopies } from './remote-copies.ts';
import { PlainError } from '../platform/plain-error.ts';
import { LocalReader } from './local-content.ts';
import { PackWriter, headerBytes } from './pack-writer.ts';

const batchBytes = 16 * 1024 * 1024;
/** A pack is written anew when more than this share of it is dead. */
const deadShare = 0.25;

export interface PacksToTidy {
  store: string;
  remote: RemoteCopies | null;
  /** Sizes of all packs in bytes, by number. */
  sizes: ReadonlyMap<number, number>;
}

/** Takes away packs without a living content, and writes those anew that are dead for a good part. @returns bytes freed */
export async function tidyPacks(
  pool: Pool,
  { store, remote, sizes }: PacksToTidy,
  signal: AbortSignal,
): Promise<number> {
  const packs = await select<{ id: number; bytes: number }>(
    pool,
    `SELECT p.id, COALESCE(SUM(c.size + ?), 0) AS bytes FROM packs p LEFT JOIN contents c ON c.pack_id = p.id
      WHERE p.sealed = 1 GROUP BY p.id`,
    [headerBytes],
  );
  let freed = 0;
  for (const { id, bytes } of packs) {
    signal.throwIfAborted();
    const size = sizes.get(id) ?? 0;
    const living = Number(bytes);
    if (living > 0 && size - living <= size * deadShare) continue;
    freed += size - (living > 0 ? await rewrite(pool, store, remote, id) : 0);
    await change(pool, 'DELETE FROM packs WHERE id = ?', [id]);
    if (remote) await remote.removePack(id);
    else rmSync(packFile(store, id), { force: true });
  }
  return freed;
}

/** Appends a pack's living contents to new packs, and has their rows point there. @returns bytes written */
async function rewrite(
  pool: Pool,
  store: string,
  remote: RemoteCopies | null,
  packId: number,
): Promise<number> {
  const contents = await select<{ hash: Buffer; size: number; packOffset: number }>(
    pool,
    'SELECT hash, size, pack_offset AS packOffset FROM contents WHERE pack_id = ? ORDER BY pack_offset',
    [packId],
  );
  const reader = new LocalReader();
  const writer = new PackWriter(store, remote);
  let written = 0;
  for (let from = 0; from < contents.length;) {
    const batch: { hash: Buffer; bytes: Uint8Array }[] = [];
    for (let bytes = 0; from < contents.length && bytes < batchBytes; from++) {
      const row = contents[from];
      if (!row) break;
      const hash = row.hash.toString('hex');
      const place = { hash, size: row.size, packId, packOffset: row.packOffset };
      const here = { ...place, file: packFile(store, packId), offset: row.packOffset };
      const content = remote ? (await remote.bring([place], true)).get(hash) : here;
      if (!content)
        throw new PlainError(`The store has lost pack ${packId}; checking it finds what is gone.`);
      batch.push({ hash: row.hash, bytes: reader.read(content) });
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
