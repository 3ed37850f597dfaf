import type { Pool } from '../platform/database/pool.ts';
import { select } from '../platform/database/rows.ts';
import type { StoredFiles } from './stored-files.ts';

/** Files of the store that no row tells of: a crash leaves them. */
export async function findStrays(pool: Pool, files: StoredFiles): Promise<{ count: number; bytes: number }> {
  const packs = new Set((await select<{ id: number }>(pool, 'SELECT id FROM packs')).map(({ id }) => id));
  const rows = await select<{ hash: Buffer }>(pool, 'SELECT hash FROM contents WHERE pack_id = 0');
  const large = new Set(rows.map(({ hash }) => hash.toString('hex')));
  const strays = [
    ...[...files.packs].filter(([id]) => !packs.has(id)),
    ...[...files.large].filter(([hash]) => !large.has(hash)),
  ];
  return { count: strays.length, bytes: strays.reduce((sum, [, bytes]) => sum + bytes, 0) };
}
