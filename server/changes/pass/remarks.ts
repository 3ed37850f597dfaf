import type { Build } from '../../../contract/builds.ts';
import type { Remark } from '../../../contract/pass.ts';
import { change, select, type Queryable } from '../../platform/database/rows.ts';
import { pathDigest } from '../../store/hash.ts';

/** What was remarked on a finding, the oldest first. */
export async function listRemarks(
  database: Queryable,
  from: Build,
  to: Build,
  path: string,
): Promise<Remark[]> {
  const rows = await select<Omit<Remark, 'saidAt'> & { saidAt: Date }>(
    database,
    `SELECT id, body, said_by AS saidBy, said_at AS saidAt FROM remarks
      WHERE channel_id = ? AND from_build = ? AND to_build = ? AND path_digest = ? ORDER BY id`,
    [to.channelId, from.id, to.id, pathDigest(path)],
  );
  return rows.map((row) => ({ ...row, saidAt: row.saidAt.toISOString() }));
}

export async function addRemark(
  database: Queryable,
  from: Build,
  to: Build,
  path: string,
  { body, by }: { body: string; by: string },
): Promise<void> {
  await change(database, 'INSERT IGNORE INTO paths (digest, path) VALUES (?, ?)', [pathDigest(path), path]);
  await change(
    database,
    'INSERT INTO remarks (channel_id, from_build, to_build, path_digest, body, said_by) VALUES (?, ?, ?, ?, ?, ?)',
    [to.channelId, from.id, to.id, pathDigest(path), body, by],
  );
}

/** How many remarks findings have, by path. */
export async function countRemarks(
  database: Queryable,
  from: Build,
  to: Build,
): Promise<Map<string, number>> {
  const rows = await select<{ path: string; count: number }>(
    database,
    `SELECT p.path, COUNT(*) AS count FROM remarks r JOIN paths p ON p.digest = r.path_digest
      WHERE r.channel_id = ? AND r.from_build = ? AND r.to_build = ? GROUP BY p.path`,
    [to.channelId, from.id, to.id],
  );
  return new Map(rows.map(({ path, count }) => [path, count]));
}
