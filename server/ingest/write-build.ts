import { intakeResultSchema, type IntakeResult } from '../../contract/builds.ts';
import { readersVersion } from '../../core/kinds/read.ts';
import { openEnd } from '../acquire/builds/spans.ts';
import { inTransaction, type Pool, type PoolConnection } from '../platform/database/pool.ts';
import { change, parseColumn, selectOne } from '../platform/database/rows.ts';
import { findBase, type BaseBuild } from './base-build.ts';

/** Another build came into the channel while this one was read: what was gathered is a difference to a build of yesterday. */
export class BaseMovedError extends Error {
  override readonly name = 'BaseMovedError';
}

export interface BuildToWrite {
  jobId: number;
  buildId: number;
  /** What the gathered rows are a difference to; null where they are the whole build. */
  base: BaseBuild | null;
  /** Whether the base was read from the same source, so that what is known of its files still counts. */
  isSameSource: boolean;
  result: IntakeResult;
}

const isSame = `(a.role = i.role AND a.hash <=> i.hash AND a.format = i.format AND a.target_digest <=> i.target_digest
  AND a.size <=> i.size AND (a.hash IS NOT NULL OR a.packed_hash <=> i.packed_hash))`;

/**
 * Turns what a job has gathered into its build, in one transaction: spans of paths that are gone or changed are
 * closed, new ones opened; what stayed the same is not touched.
 * @throws BaseMovedError
 */
export async function writeBuild(pool: Pool, write: BuildToWrite): Promise<void> {
  const { jobId, buildId, base, result } = write;
  await inTransaction(pool, async (connection) => {
    const build = await selectOne<{ channelId: number; sequence: number | null }>(
      connection,
      'SELECT channel_id AS channelId, sequence FROM builds WHERE id = ? FOR UPDATE',
      [buildId],
    );
    if (!build) throw new Error(`writeBuild: there is no build ${buildId}`);
    const { channelId } = build;
    await selectOne(connection, 'SELECT id FROM channels WHERE id = ? FOR UPDATE', [channelId]);
    const newest = await findBase(connection, channelId);
    if (base && newest?.key !== base.key) throw new BaseMovedError();
    const sequence = build.sequence ?? (newest?.sequence ?? 0) + 1;
    const isNewest = sequence >= (newest?.sequence ?? 0);
    if (base) await closeChanged(connection, channelId, jobId, sequence);
    else await closeSpans(connection, channelId, jobId, sequence, isNewest, wholly);
    await openSpans(connection, channelId, jobId, sequence);
    if (isNewest) {
      await refreshSpans(connection, channelId, jobId);
      await writeSources(connection, channelId, write);
    }
    await writeProblems(connection, channelId, sequence, write);
    await change(
      connection,
      `UPDATE builds SET sequence = ?, indexed_at = NOW(3), readers_version = ?, facts_version = NULL, result = ?,
         source = (SELECT source FROM jobs WHERE id = ?) WHERE id = ?`,
      [sequence, readersVersion, JSON.stringify(result), jobId, buildId],
    );
  });
}

/**
 * Brings what a key has opened into a build that is there already: the rest of the build is not touched.
 * @param units digests of the source's files that were read again
 */
export async function writeUnlocked(
  pool: Pool,
  { jobId, buildId, units }: { jobId: number; buildId: number; units: readonly Buffer[] },
): Promise<void> {
  await inTransaction(pool, async (connection) => {
    const build = await selectOne<{ channelId: number; sequence: number; result: unknown }>(
      connection,
      'SELECT channel_id AS channelId, sequence, result FROM builds WHERE id = ? FOR UPDATE',
      [buildId],
    );
    if (!build) throw new Error(`writeUnlocked: there is no build ${buildId}`);
    const { channelId, sequence } = build;
    await selectOne(connection, 'SELECT id FROM channels WHERE id = ? FOR UPDATE', [channelId]);
    const isNewest = (await findBase(connection, channelId))?.id === buildId;
    await closeSpans(connection, channelId, jobId, sequence, isNewest, inPart);
    await openSpans(connection, channelId, jobId, sequence);
    if (isNewest) await refreshSpans(connection, channelId, jobId);
    await change(
      connection,
      'DELETE FROM problems WHERE build_id = ? AND locked = 1 AND unit_digest IN (?)',
      [buildId, units],
    );
    await change(
      connection,
      `REPLACE INTO problems (build_id, path_digest, unit_digest, reason, locked)
       SELECT ?, path_digest, unit_digest, reason, locked FROM intake_problems WHERE job_id = ?`,
      [buildId, jobId],
    );
    await addReaderProblems(connection, buildId, jobId);
    await change(
      connection,
      'UPDATE builds SET indexed_at = NOW(3), facts_version = NULL, result = ? WHERE id = ?',
      [
        JSON.stringify({
          ...intakeResultSchema.parse(parseColumn(build.result)),
          ...(await countBuild(connection, channelId, sequence, buildId)),
        }),
        buildId,
      ],
    );
  });
}

/** What a build holds, by its spans. */
export async function countBuild(
  connection: PoolConnection,
  channelId: number,
  sequence: number,
  buildId: number,
): Promise<Pick<IntakeResult, 'files' | 'containers' | 'bytes' | 'locked'>> {
  const sums = await selectOne<{ files: number; containers: number; bytes: number }>(
    connection,
    `SELECT COALESCE(SUM(a.role = 0), 0) AS files, COALESCE(SUM(a.role = 1), 0) AS containers,
       COALESCE(SUM(IF(a.role = 0, a.size, 0)), 0) AS bytes FROM asset_spans a WHERE ${covers}`,
    [channelId, sequence, sequence],
  );
  const locked = await selectOne<{ count: number }>(
    connection,
    'SELECT COUNT(*) AS count FROM problems WHERE build_id = ? AND locked = 1',
    [buildId],
  );
  return {
    files: Number(sums?.files ?? 0),
    containers: Number(sums?.containers ?? 0),
    bytes: Number(sums?.bytes ?? 0),
    locked: Number(locked?.count ?? 0),
  };
}

const gathered = 'JOIN intake_assets i ON i.job_id = ? AND i.path_digest = a.path_digest';
const covers = 'a.channel_id = ? AND a.first_sequence <= ? AND a.last_sequence >= ?';
/** Of a build that was gathered whole, what was not met counts too: it is gone. */
const wholly = { staged: `LEFT ${gathered}`, differs: `(i.path_digest IS NULL OR NOT ${isSame})` };
const inPart = { staged: gathered, differs: `NOT ${isSame}` };

/** Closes what the newest build has, and this one has no more or otherwise. The cost follows what changed. */
async function closeChanged(
  connection: PoolConnection,
  channelId: number,
  jobId: number,
  sequence: number,
): Promise<void> {
  const isOpen = 'a.channel_id = ? AND a.last_sequence = ?';
  await change(
    connection,
    `UPDATE intake_gone g STRAIGHT_JOIN asset_spans a ON a.path_digest = g.path_digest SET a.last_sequence = ?
      WHERE g.job_id = ? AND ${isOpen}`,
    [sequence - 1, jobId, channelId, openEnd],
  );
  await change(
    connection,
    `UPDATE intake_assets i STRAIGHT_JOIN asset_spans a ON a.path_digest = i.path_digest SET a.last_sequence = ?
      WHERE i.job_id = ? AND ${isOpen} AND NOT ${isSame}`,
    [sequence - 1, jobId, channelId, openEnd],
  );
}

/**
 * Cuts every span that says something else of this build than what was gathered: for a first build, and for one that
 * is indexed again, which takes the place that it had.
 */
async function closeSpans(
  connection: PoolConnection,
  channelId: number,
  jobId: number,
  sequence: number,
  isNewest: boolean,
  { staged, differs }: { staged: string; differs: string },
): Promise<void> {
  const at = [jobId, channelId, sequence, sequence];
  if (!isNewest) {
    // What the later builds still have goes on after this one.
    await change(
      connection,
      `INSERT INTO asset_spans SELECT a.channel_id, a.path_digest, (${following}), a.last_sequence, a.role, a.format, a.by_extension,
         a.size, a.hash, a.target_digest, a.unit_digest, a.packed_hash FROM asset_spans a ${staged}
        WHERE ${covers} AND a.last_sequence > ? AND ${differs}`,
      [channelId, sequence, ...at, sequence],
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

/** The build that follows one: builds may have been removed in between. */
const following = 'SELECT MIN(b.sequence) FROM builds b WHERE b.channel_id = ? AND b.sequence > ?';

/** Opens a span for everything that was gathered and that no span tells of this build. */
async function openSpans(
  connection: PoolConnection,
  channelId: number,
  jobId: number,
  sequence: number,
): Promise<void> {
  await change(
    connection,
    `INSERT INTO asset_spans SELECT ?, i.path_digest, ?, COALESCE((${following}) - 1, ${openEnd}), i.role, i.format, i.by_extension, i.size, i.hash, i.target_digest,
         i.unit_digest, i.packed_hash FROM intake_assets i
      WHERE i.job_id = ? AND NOT EXISTS (SELECT 1 FROM asset_spans a WHERE a.path_digest = i.path_digest AND ${covers})`,
    [channelId, sequence, channelId, sequence, jobId, channelId, sequence, sequence],
  );
}

/**
 * The same content may be packed otherwise than in the build before, or come out of another file: no difference to a
 * person, but the next build is compared with how the newest one has it.
 */
async function refreshSpans(connection: PoolConnection, channelId: number, jobId: number): Promise<void> {
  await change(
    connection,
    `UPDATE intake_assets i STRAIGHT_JOIN asset_spans a ON a.path_digest = i.path_digest
        SET a.packed_hash = i.packed_hash, a.unit_digest = i.unit_digest, a.by_extension = i.by_extension
      WHERE i.job_id = ? AND a.channel_id = ? AND a.last_sequence = ?`,
    [jobId, channelId, openEnd],
  );
}

/** Remembers the files that the newest build was read from, and no others. */
async function writeSources(
  connection: PoolConnection,
  channelId: number,
  { jobId, base, isSameSource }: BuildToWrite,
): Promise<void> {
  if (!base || !isSameSource) {
    await change(connection, 'DELETE FROM source_files WHERE channel_id = ?', [channelId]);
  } else {
    await change(
      connection,
      `DELETE f FROM intake_gone g STRAIGHT_JOIN source_files f ON f.path_digest = g.path_digest
        WHERE g.job_id = ? AND f.channel_id = ?`,
      [jobId, channelId],
    );
  }
  await change(
    connection,
    'REPLACE INTO source_files SELECT ?, path_digest, signature FROM intake_sources WHERE job_id = ?',
    [channelId, jobId],
  );
}

async function writeProblems(
  connection: PoolConnection,
  channelId: number,
  sequence: number,
  { jobId, buildId, base }: BuildToWrite,
): Promise<void> {
  await change(connection, 'DELETE FROM problems WHERE build_id = ?', [buildId]);
  await change(
    connection,
    `INSERT INTO problems (build_id, path_digest, unit_digest, reason, locked)
       SELECT ?, path_digest, unit_digest, reason, locked FROM intake_problems WHERE job_id = ?`,
    [buildId, jobId],
  );
  await addReaderProblems(connection, buildId, jobId);
  if (!base) return;
  // So it is where the build before has it, and the content is still there.
  await change(
    connection,
    `INSERT IGNORE INTO problems (build_id, path_digest, unit_digest, reason)
       SELECT ?, q.path_digest, q.unit_digest, f.reason FROM problems q
       JOIN asset_spans a ON a.path_digest = q.path_digest AND ${covers}
       JOIN content_facts f ON f.hash = a.hash AND f.format = a.format
      WHERE q.build_id = ? AND a.role = 0 AND f.reason IS NOT NULL`,
    [buildId, channelId, sequence, sequence, base.id],
  );
}

/** What was kept and yet no reader could make sense of is listed too; it is not counted as unreadable. */
async function addReaderProblems(connection: PoolConnection, buildId: number, jobId: number): Promise<void> {
  await change(
    connection,
    `INSERT IGNORE INTO problems (build_id, path_digest, unit_digest, reason)
       SELECT ?, i.path_digest, i.unit_digest, f.reason FROM intake_assets i
       JOIN content_facts f ON f.hash = i.hash AND f.format = i.format
      WHERE i.job_id = ? AND i.role = 0 AND f.reason IS NOT NULL`,
    [buildId, jobId],
  );
}
