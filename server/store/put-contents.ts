import { bulkLoad, type BulkTable } from '../platform/database/bulk-load.ts';
import type { Pool } from '../platform/database/pool.ts';
import type { PackWriter } from './pack-writer.ts';
import { findContents } from './read-content.ts';

export const contentsTable: BulkTable = {
  table: 'contents',
  columns: [
    { name: 'hash', binary: true },
    { name: 'size' },
    { name: 'pack_id' },
    { name: 'pack_offset' },
    { name: 'job_id' },
  ],
  onDuplicate: 'ignore',
};

/** Stores small contents that are not there yet. `job_id` 0: no job has to be resumed for them. */
export async function putContents(
  pool: Pool,
  packs: PackWriter,
  contents: ReadonlyMap<string, { hash: Buffer; bytes: Uint8Array }>,
): Promise<void> {
  const known = await findContents(pool, [...contents.keys()]);
  const fresh = [...contents].filter(([hash]) => !known.has(hash)).map(([, content]) => content);
  const places = await packs.append(pool, fresh);
  await bulkLoad(
    pool,
    contentsTable,
    places.map((place) => [Buffer.from(place.hash, 'hex'), place.size, place.packId, place.packOffset, 0]),
  );
}
