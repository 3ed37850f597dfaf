import type { PlacedBuild } from '../acquire/builds/builds.ts';
import { change, type Queryable } from '../platform/database/rows.ts';

const spansOfBuild = `content_facts f JOIN asset_spans s FORCE INDEX (spans_by_hash) ON s.hash = f.hash AND s.format = f.format
  AND s.channel_id = ? AND s.first_sequence <= ? AND s.last_sequence >= ? AND s.role = 0`;

/** Takes back what readers said of contents before, where they are read anew. To be called before their facts are replaced. */
export async function forgetProblems(
  database: Queryable,
  { id, channelId, sequence }: PlacedBuild,
  hashes: readonly Buffer[],
): Promise<void> {
  if (hashes.length === 0) return;
  await change(
    database,
    `DELETE q FROM ${spansOfBuild} JOIN problems q ON q.build_id = ? AND q.path_digest = s.path_digest AND q.reason = f.reason
      WHERE f.hash IN (?)`,
    [channelId, sequence, sequence, id, hashes],
  );
}

/** Lists in a build what no reader could make sense of, or only in part. @param hashes of contents; all where none are given */
export async function listReaderProblems(
  database: Queryable,
  { id, channelId, sequence }: PlacedBuild,
  hashes?: readonly Buffer[],
): Promise<void> {
  if (hashes?.length === 0) return;
  await change(
    database,
    `INSERT IGNORE INTO problems (build_id, path_digest, unit_digest, reason)
       SELECT ?, s.path_digest, s.unit_digest, f.reason FROM ${spansOfBuild} WHERE f.reason IS NOT NULL ${hashes ? 'AND f.hash IN (?)' : ''}`,
    [id, channelId, sequence, sequence, ...(hashes ? [hashes] : [])],
  );
}
