import type { IntakeResult } from '../../contract/builds.ts';
import { inTransaction, type Pool, type PoolConnection } from '../database/pool.ts';
import { change, selectOne } from '../database/rows.ts';

/** `last_sequence` of what the newest build still has. */
export const openEnd = 4_294_967_295;

const isSame = `(a.role = i.role AND a.hash <=> i.hash AND a.format = i.format AND a.target_digest <=> i.target_digest
  AND a.size <=> i.size)`;

/**
 * Turns what a job has gathered into its build, in one transaction: spans of paths that are gone or changed are
 * closed, new ones opened; what stayed the same is not touched. A build that is indexed again is first taken out
 * of the spans, then written anew at the same place.
 */
export async function writeBuild(
  pool: Pool,
  jobId: number,
  buildId: number,
  result: IntakeResult,
): Promise<void> {
  await inTransaction(pool, async (connection) => {
    const build = await selectOne<{ channelId: number; sequence: number | null }>(
      connection,
      'SELECT channel_id AS channelId, sequence FROM builds WHERE id = ? FOR UPDATE',
      [buildId],
    );
    if (!build) throw new Error(`writeBuild: there is no build ${buildId}`);
    const { channelId } = build;
    await change(connection, 'SELECT id FROM channels WHERE id = ? FOR UPDATE', [channelId]);
    const newest = await selectOne<{ sequence: number | null }>(
      connection,
      'SELECT MAX(sequence) AS sequence FROM builds WHERE channel_id = ?',
      [channelId],
    );
    const sequence = build.sequence ?? (newest?.sequence ?? 0) + 1;
    const isNewest = sequence >= (newest?.sequence ?? 0);
    await closeSpans(connection, channelId, jobId, sequence, isNewest);
    await openSpans(connection, channelId, jobId, sequence, isNewest);
    await change(connection, 'DELETE FROM problems WHERE build_id = ?', [buildId]);
    await change(
      connection,
      'INSERT INTO problems (build_id, path_digest, reason) SELECT ?, path_digest, reason FROM intake_problems WHERE job_id = ?',
      [buildId, jobId],
    );
    // What was kept and yet no reader could make sense of is listed too; it is not counted as unreadable.
    await change(
      connection,
      `INSERT IGNORE INTO problems (build_id, path_digest, reason)
       SELECT ?, i.path_digest, f.reason FROM intake_assets i JOIN content_facts f ON f.hash = i.hash AND f.format = i.format
        WHERE i.job_id = ? AND i.role = 0 AND f.reason IS NOT NULL`,
      [buildId, jobId],
    );
    await change(
      connection,
      'UPDATE builds SET sequence = ?, indexed_at = NOW(3), result = ?, source = (SELECT source FROM jobs WHERE id = ?) WHERE id = ?',
      [sequence, JSON.stringify(result), jobId, buildId],
    );
  });
  // After the commit: a crash here leaves rows that nothing reads, and the next start clears them.
  await clearStaging(pool, jobId);
}

export async function clearStaging(pool: Pool, jobId: number): Promise<void> {
  await change(pool, 'DELETE FROM intake_assets WHERE job_id = ?', [jobId]);
  await change(pool, 'DELETE FROM intake_problems WHERE job_id = ?', [jobId]);
}

const staged = 'LEFT JOIN intake_assets i ON i.job_id = ? AND i.path_digest = a.path_digest';
const covers = 'a.channel_id = ? AND a.first_sequence <= ? AND a.last_sequence >= ?';
const differs = `(i.path_digest IS NULL OR NOT ${isSame})`;

/** Cuts every span that says something else of this build than what was gathered. */
async function closeSpans(
  connection: PoolConnection,
  channelId: number,
  jobId: number,
  sequence: number,
  isNewest: boolean,
): Promise<void> {
  const at = [jobId, channelId, sequence, sequence];
  if (!isNewest) {
    // What the later builds still have goes on after this one.
    await change(
      connection,
      `INSERT INTO asset_spans SELECT a.channel_id, a.path_digest, ?, a.last_sequence, a.role, a.format, a.by_extension,
         a.size, a.hash, a.target_digest, a.packed_hash FROM asset_spans a ${staged}
        WHERE ${covers} AND a.last_sequence > ? AND ${differs}`,
      [sequence + 1, ...at, sequence],
    );
  }
  // A span that begins with this build has nothing left before it.
  await change(
    connection,
    `DELETE a FROM asset_spans a ${staged} WHERE ${covers} AND a.first_sequence = ? AND ${differs}`,
    [...at, sequence],
  );
  await change(
    connection,
    `UPDATE asset_spans a ${staged} SET a.last_sequence = ? WHERE ${covers} AND ${differs}`,
    [jobId, sequence - 1, channelId, sequence, sequence],
  );
}

/** Opens a span for everything that was gathered and that no span tells of this build. */
async function openSpans(
  connection: PoolConnection,
  channelId: number,
  jobId: number,
  sequence: number,
  isNewest: boolean,
): Promise<void> {
  await change(
    connection,
    `INSERT INTO asset_spans SELECT ?, i.path_digest, ?, ?, i.role, i.format, i.by_extension, i.size, i.hash, i.target_digest,
         i.packed_hash FROM intake_assets i
      WHERE i.job_id = ? AND NOT EXISTS (SELECT 1 FROM asset_spans a WHERE a.path_digest = i.path_digest AND ${covers})`,
    [channelId, sequence, isNewest ? openEnd : sequence, jobId, channelId, sequence, sequence],
  );
}
