import { change, select, selectOne, type Queryable } from '../database/rows.ts';
import type { SourceFile } from './messages.ts';
import { role } from './recorder.ts';

export interface StagedCounts {
  files: number;
  containers: number;
  bytes: number;
  newContents: number;
  newBytes: number;
  locked: number;
  unreadable: number;
}

/**
 * Clears away what a job that did not come to its end left half done: what came out of archives that were not
 * finished, and whatever points at contents that the store has lost.
 * @returns the source's files that need not be read again, by path
 */
export async function prepareResume(database: Queryable, jobId: number): Promise<Map<string, SourceFile>> {
  await change(
    database,
    `DELETE u FROM intake_assets i JOIN intake_assets u ON u.job_id = i.job_id AND u.path_digest = i.unit_digest
      LEFT JOIN contents c ON c.hash = i.hash
      WHERE i.job_id = ? AND i.role = ? AND i.hash IS NOT NULL AND c.hash IS NULL`,
    [jobId, role.file],
  );
  // A file that could not be read gets another chance; so does one that was only partly kept.
  await change(
    database,
    'DELETE FROM intake_assets WHERE job_id = ? AND path_digest = unit_digest AND hash IS NULL',
    [jobId],
  );
  for (const table of ['intake_assets', 'intake_problems'] as const) {
    await change(
      database,
      `DELETE i FROM ${table} i LEFT JOIN intake_assets u ON u.job_id = i.job_id AND u.path_digest = i.unit_digest
        WHERE i.job_id = ? AND u.path_digest IS NULL`,
      [jobId],
    );
  }
  const rows = await select<SourceFile>(
    database,
    `SELECT p.path, i.size, i.modified_ms AS modifiedMs FROM intake_assets i JOIN paths p ON p.digest = i.path_digest
      WHERE i.job_id = ? AND i.path_digest = i.unit_digest`,
    [jobId],
  );
  return new Map(rows.map((row) => [row.path, row]));
}

/** Forgets what came out of files of the source that are to be read again, or are there no more. */
export async function forgetUnits(
  database: Queryable,
  jobId: number,
  unitDigests: readonly Buffer[],
): Promise<void> {
  for (let from = 0; from < unitDigests.length; from += 1000) {
    const part = unitDigests.slice(from, from + 1000);
    await change(database, 'DELETE FROM intake_assets WHERE job_id = ? AND unit_digest IN (?)', [
      jobId,
      part,
    ]);
    await change(database, 'DELETE FROM intake_problems WHERE job_id = ? AND unit_digest IN (?)', [
      jobId,
      part,
    ]);
  }
}

export async function countStaged(database: Queryable, jobId: number): Promise<StagedCounts> {
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
    files: Number(assets?.files ?? 0),
    containers: Number(assets?.containers ?? 0),
    bytes: Number(assets?.bytes ?? 0),
    newContents: Number(fresh?.newContents ?? 0),
    newBytes: Number(fresh?.newBytes ?? 0),
    locked: Number(problems?.locked ?? 0),
    unreadable: Number(problems?.unreadable ?? 0),
  };
}
