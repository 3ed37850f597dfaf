import type { Pool } from '../platform/database/pool.ts';
import { change, select } from '../platform/database/rows.ts';
import type { ContentStore } from '../store/content-store.ts';

const batchRows = 2000;

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
  store: ContentStore,
  signal: AbortSignal,
  onProgress: (done: number, total: number) => void,
): Promise<Freed> {
  for (const table of ['content_facts', 'content_bones', 'readings', 'lost_contents'])
    await change(
      pool,
      `DELETE f FROM ${table} f WHERE NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.hash = f.hash)`,
    );
  for (const side of ['new_hash', 'old_hash'])
    await change(
      pool,
      `DELETE k FROM comparisons k WHERE NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.hash = k.${side})`,
    );
  await change(
    pool,
    'DELETE d FROM derivatives d WHERE NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.hash = d.source_hash)',
  );
  const freed: Freed = { contents: 0, bytes: 0 };
  for (;;) {
    signal.throwIfAborted();
    const dead = await select<{ hash: Buffer }>(
      pool,
      `SELECT c.hash FROM contents c
        WHERE NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.hash = c.hash)
          AND NOT EXISTS (SELECT 1 FROM content_facts f WHERE f.preview_hash = c.hash)
          AND NOT EXISTS (SELECT 1 FROM readings r WHERE r.preview_hash = c.hash)
          AND NOT EXISTS (SELECT 1 FROM comparisons k WHERE k.picture_hash = c.hash)
          AND NOT EXISTS (SELECT 1 FROM derivatives d WHERE d.hash = c.hash) LIMIT ?`,
      [batchRows],
    );
    if (dead.length === 0) break;
    freed.bytes += await store.delete(dead.map(({ hash }) => hash));
    freed.contents += dead.length;
    onProgress(freed.contents, freed.contents);
  }
  freed.bytes += await store.tidy(signal);
  return freed;
}
