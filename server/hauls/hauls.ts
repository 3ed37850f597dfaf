import type { Haul } from '../../contract/collecting.ts';
import { inTransaction, type Pool } from '../platform/database/pool.ts';
import { change, select, selectOne, type Queryable } from '../platform/database/rows.ts';
import { role } from '../acquire/builds/spans.ts';
import { pathDigest } from '../store/hash.ts';

/** What is collected in a channel, by path. */
export async function readHaul(
  database: Queryable,
  channelId: number,
  offset: number,
  limit: number,
): Promise<Haul> {
  const whole = await selectOne<{ total: number; bytes: number | null }>(
    database,
    // The size is that of the build which it was collected from.
    `SELECT COUNT(*) AS total, SUM(s.size) AS bytes FROM haul_assets h
       LEFT JOIN builds b ON b.channel_id = h.channel_id AND b.label = h.build
       LEFT JOIN asset_spans s ON s.channel_id = h.channel_id AND s.path_digest = h.path_digest AND s.role = ?
         AND s.first_sequence <= b.sequence AND s.last_sequence >= b.sequence
      WHERE h.channel_id = ?`,
    [role.file, channelId],
  );
  const assets = await select<{ path: string; build: string }>(
    database,
    `SELECT p.path, h.build FROM haul_assets h JOIN paths p ON p.digest = h.path_digest
      WHERE h.channel_id = ? ORDER BY p.path LIMIT ? OFFSET ?`,
    [channelId, limit, offset],
  );
  return { total: whole?.total ?? 0, bytes: Number(whole?.bytes ?? 0), assets };
}

/** Puts paths of a build into the haul. @returns how many it did not have, and how many it has now */
export async function collect(
  pool: Pool,
  channelId: number,
  build: string,
  paths: readonly string[],
): Promise<{ added: number; total: number }> {
  return inTransaction(pool, async (connection) => {
    const before = await countHaul(connection, channelId);
    for (let from = 0; from < paths.length; from += 1000) {
      const digests = paths.slice(from, from + 1000).map(pathDigest);
      await change(
        connection,
        `INSERT INTO haul_assets (channel_id, path_digest, build) SELECT ?, digest, ? FROM paths WHERE digest IN (?)
          ON DUPLICATE KEY UPDATE build = VALUES(build)`,
        [channelId, build, digests],
      );
    }
    const total = await countHaul(connection, channelId);
    return { added: total - before, total };
  });
}

/** @param paths null takes all of them out */
export async function uncollect(
  database: Queryable,
  channelId: number,
  paths: readonly string[] | null,
): Promise<void> {
  if (paths === null) {
    await change(database, 'DELETE FROM haul_assets WHERE channel_id = ?', [channelId]);
    return;
  }
  for (let from = 0; from < paths.length; from += 1000)
    await change(database, 'DELETE FROM haul_assets WHERE channel_id = ? AND path_digest IN (?)', [
      channelId,
      paths.slice(from, from + 1000).map(pathDigest),
    ]);
}

async function countHaul(database: Queryable, channelId: number): Promise<number> {
  const row = await selectOne<{ count: number }>(
    database,
    'SELECT COUNT(*) AS count FROM haul_assets WHERE channel_id = ?',
    [channelId],
  );
  return row?.count ?? 0;
}
