import type { Mark } from '../../contract/findings.ts';
import type { Build } from '../../contract/builds.ts';
import { change, select, type Queryable } from '../database/rows.ts';
import { pathDigest } from '../store/hash.ts';

/** Marks of a span's findings, by path. */
export async function listMarks(database: Queryable, from: Build, to: Build): Promise<Map<string, Mark>> {
  const rows = await select<{ path: string; mark: Mark }>(
    database,
    `SELECT p.path, m.mark FROM marks m JOIN paths p ON p.digest = m.path_digest
      WHERE m.channel_id = ? AND m.from_build = ? AND m.to_build = ?`,
    [from.channelId, from.id, to.id],
  );
  return new Map(rows.map(({ path, mark }) => [path, mark]));
}

/** Keeps a finding or sets it aside; null takes the mark away. */
export async function setMark(
  database: Queryable,
  from: Build,
  to: Build,
  path: string,
  mark: Mark | null,
): Promise<void> {
  const key = [from.channelId, from.id, to.id, pathDigest(path)];
  if (mark === null) {
    await change(
      database,
      'DELETE FROM marks WHERE channel_id = ? AND from_build = ? AND to_build = ? AND path_digest = ?',
      key,
    );
    return;
  }
  await change(
    database,
    'INSERT INTO marks (channel_id, from_build, to_build, path_digest, mark) VALUES (?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE mark = VALUES(mark)',
    [...key, mark],
  );
}
