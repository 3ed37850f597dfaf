import { readersVersion } from '../../../core/kinds/read.ts';
import { addJob } from '../../jobs/queue.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { change, selectOne, type Queryable } from '../../platform/database/rows.ts';
import type { PlacedBuild } from './builds.ts';

/**
 * Builds come in two steps: a build is there once its files are recorded (it has arrived), and its facts are read
 * afterwards, by a job that makes room for others. This is how far the second step is.
 */
export function isRead({ factsVersion }: Pick<PlacedBuild, 'factsVersion'>): boolean {
  return factsVersion === readersVersion;
}

/** Background jobs make room for those that bring something in. Comparing comes after reading. */
export const readingPriority = -1;

/** The job that reads a build's facts, or waits to; null where there is none. */
export async function openReading(database: Queryable, buildId: number): Promise<number | null> {
  const row = await selectOne<{ id: number }>(
    database,
    `SELECT id FROM jobs WHERE kind = 'read' AND build_id = ? AND state IN ('waiting', 'running', 'paused') LIMIT 1`,
    [buildId],
  );
  return row?.id ?? null;
}

/** Has a build's facts read, unless a job does that already. @returns the job */
export async function startReading(pool: Pool, buildId: number): Promise<number> {
  const open = await openReading(pool, buildId);
  if (open !== null) return open;
  const build = await selectOne<{ label: string }>(pool, 'SELECT label FROM builds WHERE id = ?', [buildId]);
  return addJob(pool, {
    kind: 'read',
    buildId,
    subject: `Facts of build ${build?.label ?? ''}`,
    params: null,
    priority: readingPriority,
  });
}

/** Facts of a build have come in: what was made of the earlier ones may be made anew. */
export async function bumpFacts(database: Queryable, buildId: number): Promise<void> {
  await change(database, 'UPDATE builds SET facts_revision = facts_revision + 1 WHERE id = ?', [buildId]);
}

/**
 * All of a build has been read.
 * @param indexedAt of the build as it was read: where it was indexed anew meanwhile, something is left
 */
export async function finishReading(database: Queryable, buildId: number, indexedAt: string): Promise<void> {
  await change(
    database,
    `UPDATE builds SET facts_revision = facts_revision + 1, facts_version = ? WHERE id = ? AND indexed_at = ?`,
    [readersVersion, buildId, new Date(indexedAt)],
  );
}
