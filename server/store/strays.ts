import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Pool } from '../platform/database/pool.ts';
import { select } from '../platform/database/rows.ts';

/** Files of the store that no row tells of: a crash leaves them. */
export async function findStrays(pool: Pool, store: string): Promise<{ count: number; bytes: number }> {
  const packs = new Set((await select<{ id: number }>(pool, 'SELECT id FROM packs')).map(({ id }) => id));
  const large = new Set(
    (await select<{ hash: Buffer }>(pool, 'SELECT hash FROM contents WHERE pack_id = 0')).map(({ hash }) =>
      hash.toString('hex'),
    ),
  );
  const strays = { count: 0, bytes: 0 };
  for (const name of filesBelow(join(store, 'packs')))
    if (!packs.has(Number.parseInt(name.slice(name.lastIndexOf('/') + 1), 10))) noteStray(strays, name);
  for (const name of filesBelow(join(store, 'large')))
    if (!large.has(name.slice(name.lastIndexOf('/') + 1))) noteStray(strays, name);
  return strays;
}

function noteStray(strays: { count: number; bytes: number }, path: string): void {
  strays.count++;
  strays.bytes += statSync(path).size;
}

function filesBelow(folder: string): string[] {
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { withFileTypes: true, recursive: true }).flatMap((item) =>
    item.isFile() ? [join(item.parentPath, item.name)] : [],
  );
}
