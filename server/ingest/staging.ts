import { bulkLoad } from '../platform/database/bulk-load.ts';
import { change, select, selectOne, type Queryable } from '../platform/database/rows.ts';
import { role } from '../acquire/builds/spans.ts';
import { unsettled } from './containers/file-signature.ts';
import type { KnownBuild } from './known-build.ts';
import { skippedUnit } from './recorder.ts';

export interface StagedCounts {
  files: number;
  containers: number;
  bytes: number;
  newContents: number;
  newBytes: number;
  locked: number;
  unreadable: number;
}

const stagingTables = [
  'intake_assets',
  'intake_problems',
  'intake_sources',
  'intake_met',
  'intake_gone',
] as const;

/** Forgets all that a job has gathered. The contents that it stored stay. */
export async function clearStaging(database: Queryable, jobId: number): Promise<void> {
  for (const table of stagingTables) await change(database, `DELETE FROM ${table} WHERE job_id = ?`, [jobId]);
}

/**
 * Says what a job's findings are a difference to. What it gathered as a difference to something else, before it was
 * interrupted, is forgotten.
 */
export async function settleBase(database: Queryable, jobId: number, base: string): Promise<void> {
  const { changed } = await change(database, 'UPDATE jobs SET base = ? WHERE id = ? AND base <> ?', [
    base,
    jobId,
    base,
  ]);
  if (changed > 0) await clearStaging(database, jobId);
}

/**
 * Clears away what a job that did not come to its end left half done: what came out of files of the source that were
 * not finished, that have changed since, or whose contents the store has lost.
 * @param isStill whether the source's file still is what it was, by path and signature
 * @returns the source's files that need not be read again
 */
export async function prepareResume(
  database: Queryable,
  jobId: number,
  isStill: (path: string, signature: string) => boolean,
): Promise<Set<string>> {
  // A file that could not be read gets another chance.
  await change(
    database,
    `DELETE u FROM intake_sources u JOIN intake_assets i ON i.job_id = u.job_id AND i.unit_digest = u.path_digest
       LEFT JOIN contents c ON c.hash = i.hash
      WHERE u.job_id = ? AND i.role = ? AND c.hash IS NULL AND (i.hash IS NOT NULL OR i.path_digest = i.unit_digest)`,
    [jobId, role.file],
  );
  const sources = await select<{ digest: Buffer; path: string; signature: Buffer }>(
    database,
    `SELECT u.path_digest AS digest, p.path, u.signature FROM intake_sources u
       JOIN paths p ON p.digest = u.path_digest WHERE u.job_id = ?`,
    [jobId],
  );
  const done = new Set<string>();
  const stale: Buffer[] = [];
  for (const { digest, path, signature } of sources) {
    const state = signature.toString('hex');
    if (state !== unsettled && isStill(path, state)) done.add(path);
    else stale.push(digest);
  }
  for (let from = 0; from < stale.length; from += 1000) {
    await change(database, 'DELETE FROM intake_sources WHERE job_id = ? AND path_digest IN (?)', [
      jobId,
      stale.slice(from, from + 1000),
    ]);
  }
  for (const table of ['intake_assets', 'intake_problems'] as const) {
    await change(
      database,
      `DELETE i FROM ${table} i LEFT JOIN intake_sources u ON u.job_id = i.job_id AND u.path_digest = i.unit_digest
        WHERE i.job_id = ? AND u.path_digest IS NULL`,
      [jobId],
    );
  }
  return done;
}

/** Tells the known build which of its paths a job had met before it was interrupted. */
export async function recallMet(database: Queryable, jobId: number, known: KnownBuild): Promise<void> {
  const staged = await select<{ digest: Buffer }>(
    database,
    'SELECT path_digest AS digest FROM intake_assets WHERE job_id = ?',
    [jobId],
  );
  for (const { digest } of staged) known.meetAgain(digest, false);
  const sources = await select<{ digest: Buffer }>(
    database,
    'SELECT path_digest AS digest FROM intake_sources WHERE job_id = ?',
    [jobId],
  );
  const done = new Set(sources.map(({ digest }) => digest.toString('latin1')));
  for (const { pairs } of await select<{ pairs: Buffer }>(
    database,
    'SELECT pairs FROM intake_met WHERE job_id = ?',
    [jobId],
  )) {
    for (let at = 0; at < pairs.length; at += 32) {
      const digest = pairs.subarray(at, at + 16);
      const unit = pairs.subarray(at + 16, at + 32);
      if (unit.equals(skippedUnit)) {
        if (done.has(digest.toString('latin1'))) known.skip(digest);
      } else if (done.has(unit.toString('latin1'))) {
        known.meetAgain(digest, true);
      }
    }
  }
}

/** Writes down which paths of the known build the new one has no more. */
export async function stageGone(database: Queryable, jobId: number, known: KnownBuild): Promise<void> {
  await change(database, 'DELETE FROM intake_gone WHERE job_id = ?', [jobId]);
  await bulkLoad(
    database,
    {
      table: 'intake_gone',
      columns: [{ name: 'job_id' }, { name: 'path_digest', binary: true }],
      onDuplicate: 'ignore',
    },
    known.gone().map((digest) => [jobId, digest]),
  );
}

/** What a job has gathered, together with what is as it was. */
export async function countStaged(
  database: Queryable,
  jobId: number,
  unchanged: { files: number; containers: number; bytes: number },
): Promise<StagedCounts> {
  const assets = await selectOne<{ files: number; containers: number; bytes: number }>(
    database,
    `SELECT COALESCE(SUM(role = 0), 0) AS files, COALESCE(SUM(role = 1), 0) AS containers,
       COALESCE(SUM(IF(role = 0, size, 0)), 0) AS bytes FROM intake_assets WHERE job_id = ?`,
    [jobId],
  );
  const fresh = await selectOne<{ newContents: number; newBytes: number }>(
    database,
    'SELECT COUNT(*) AS newContents, COALESCE(SUM(size), 0) AS newBytes FROM contents WHERE job_id = ?',
    [jobId],
  );
  const problems = await selectOne<{ locked: number; unreadable: number }>(
    database,
    'SELECT COALESCE(SUM(locked = 1), 0) AS locked, COALESCE(SUM(locked = 0), 0) AS unreadable FROM intake_problems WHERE job_id = ?',
    [jobId],
  );
  return {
    files: unchanged.files + Number(assets?.files ?? 0),
    containers: unchanged.containers + Number(assets?.containers ?? 0),
    bytes: unchanged.bytes + Number(assets?.bytes ?? 0),
    newContents: Number(fresh?.newContents ?? 0),
    newBytes: Number(fresh?.newBytes ?? 0),
    locked: Number(problems?.locked ?? 0),
    unreadable: Number(problems?.unreadable ?? 0),
  };
}
