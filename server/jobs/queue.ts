import type { IntakeResult } from '../../contract/builds.ts';
import type { JobKind, JobReport, JobState, Progress } from '../../contract/work.ts';
import { inTransaction, type Pool } from '../platform/database/pool.ts';
import { change, select, selectOne, type Queryable } from '../platform/database/rows.ts';
import { ConflictError, PlainError } from '../platform/plain-error.ts';
import { hasEnded } from '../platform/process-mark.ts';

/** Who works off the queue. */
export interface JobQueue {
  /** Says that there is something new in it. */
  look(): void;
}

export const leaseSeconds = 20;

export interface OpenJobRow {
  id: number;
  state: JobState;
  owner: string | null;
  leaseLives: number;
}

/**
 * The one gate to running: takes the first job that waits, or whose runner is dead: of the highest priority, and of these
 * the oldest. Exclusive jobs run while no other does, whichever process asks.
 * @param jobId takes this job and no other
 * @param place what can be reached from here: jobs of other places are left to those who are there
 * @returns the job's number; null where there is none, or none that may run beside those that do
 */
export async function claimJob(
  pool: Pool,
  owner: string,
  jobId: number | null = null,
  place: string | null = null,
): Promise<number | null> {
  return inTransaction(pool, async (connection) => {
    // Locked without skipping what others hold: which jobs run decides which may, so that claims go one after the other.
    const rows = await select<OpenJobRow & { exclusive: number; place: string | null }>(
      connection,
      `SELECT id, state, owner, exclusive, place, lease_until > NOW(3) AS leaseLives FROM jobs
        WHERE state IN ('waiting', 'running') ORDER BY priority DESC, id FOR UPDATE`,
    );
    const isFree = (row: OpenJobRow): boolean => row.state === 'waiting' || isDead(row);
    const isHere = (row: { place: string | null }): boolean =>
      row.place === null || place === null || row.place === place;
    const job = rows.find((row) => isFree(row) && isHere(row) && (jobId === null || row.id === jobId));
    if (!job) return null;
    const running = rows.filter((row) => !isFree(row));
    if (running.length > 0 && [job, ...running].some(({ exclusive }) => exclusive === 1)) return null;
    await change(
      connection,
      `UPDATE jobs SET state = 'running', owner = ?, lease_until = NOW(3) + INTERVAL ? SECOND, stop_requested = 0,
         attempts = attempts + 1 WHERE id = ?`,
      [owner, leaseSeconds, job.id],
    );
    return job.id;
  });
}

/** Renews the lease and writes the progress. @returns whether somebody asked the job to stop or to pause */
export async function renewLease(
  database: Queryable,
  jobId: number,
  owner: string,
  progress: Progress,
  speeds: readonly (readonly [number, number])[],
): Promise<boolean> {
  const { changed } = await change(
    database,
    `UPDATE jobs SET progress = ?, speeds = ?, lease_until = NOW(3) + INTERVAL ? SECOND
      WHERE id = ? AND owner = ? AND state = 'running'`,
    [JSON.stringify(progress), JSON.stringify(speeds), leaseSeconds, jobId, owner],
  );
  if (changed === 0) throw new PlainError('Another process has taken this job over.');
  return isStopRequested(database, jobId);
}

export type JobOutcome =
  | { state: 'done'; result: IntakeResult | null; report: JobReport | null }
  | { state: 'failed' | 'stopped'; error: string };

/** Writes down how a job ended. One that was asked to pause is paused, and not stopped. */
export async function finishJob(database: Queryable, jobId: number, outcome: JobOutcome): Promise<void> {
  const isDone = outcome.state === 'done';
  await change(
    database,
    `UPDATE jobs SET state = IF(? = 'stopped' AND stop_requested = ?, 'paused', ?), result = ?, report = ?, error = ?,
       owner = NULL, finished_at = NOW(3) WHERE id = ?`,
    [
      outcome.state,
      haltCodes.pause,
      outcome.state,
      isDone && outcome.result ? JSON.stringify(outcome.result) : null,
      isDone && outcome.report ? JSON.stringify(outcome.report) : null,
      isDone ? null : outcome.error,
      jobId,
    ],
  );
}

/** Whether somebody asked a running job to stop or to pause. */
export async function isStopRequested(database: Queryable, jobId: number): Promise<boolean> {
  const row = await selectOne<{ stop: number }>(
    database,
    'SELECT stop_requested AS stop FROM jobs WHERE id = ?',
    [jobId],
  );
  return (row?.stop ?? 0) > 0;
}

/** Puts a job back into the queue. */
export async function returnJob(database: Queryable, jobId: number): Promise<void> {
  await change(database, "UPDATE jobs SET state = 'waiting', owner = NULL, stop_requested = 0 WHERE id = ?", [
    jobId,
  ]);
}

/**
 * Whether a running job is to make room: one below 0 is background work, and something waits that is not. It goes on when that
 * is done.
 * @param place what can be reached from here: it makes no room for what has to be done elsewhere
 */
export async function isToMakeRoom(
  database: Queryable,
  jobId: number,
  place: string | null = null,
): Promise<boolean> {
  const row = await selectOne<{ count: number }>(
    database,
    `SELECT COUNT(*) AS count FROM jobs j JOIN jobs w ON w.state = 'waiting' AND w.priority >= 0
        AND (w.place IS NULL OR ? IS NULL OR w.place = ?)
      WHERE j.id = ? AND j.priority < 0`,
    [place, place, jobId],
  );
  return (row?.count ?? 0) > 0;
}

/** `stop_requested`, as the tables number it. */
const haltCodes = { stop: 1, pause: 2 } as const;

/** Asks a running job to stop or to pause; one that waits does so at once. */
export async function haltJob(
  database: Queryable,
  jobId: number,
  how: keyof typeof haltCodes,
): Promise<void> {
  await change(database, "UPDATE jobs SET stop_requested = ? WHERE id = ? AND state = 'running'", [
    haltCodes[how],
    jobId,
  ]);
  const halted: JobState = how === 'pause' ? 'paused' : 'stopped';
  await change(
    database,
    `UPDATE jobs SET state = ?, finished_at = NOW(3) WHERE id = ? AND (state = 'waiting' OR (state = 'paused' AND ? = 'stopped'))`,
    [halted, jobId, halted],
  );
}

/** @throws ConflictError when the job is not one that can go on */
export async function resumeJob(database: Queryable, jobId: number): Promise<void> {
  const { changed } = await change(
    database,
    `UPDATE jobs SET state = 'waiting', owner = NULL, stop_requested = 0, error = NULL, finished_at = NULL
      WHERE id = ? AND state IN ('paused', 'stopped', 'failed')`,
    [jobId],
  );
  if (changed === 0)
    throw new ConflictError('Only a job that was paused or stopped, or that has failed, can go on.');
}

/** @param priority from -9 to 9; jobs of a higher one go first */
export async function setPriority(database: Queryable, jobId: number, priority: number): Promise<void> {
  await change(database, 'UPDATE jobs SET priority = ? WHERE id = ?', [priority, jobId]);
}

export interface NewJob {
  kind: JobKind;
  buildId: number | null;
  subject: string;
  params: unknown;
  priority?: number;
  /** Whether it must run while no other job does. */
  exclusive?: boolean;
  /** Where what it reads can be reached; null where anybody can do it. */
  place?: string | null;
  /** Who runs it at once, within a job of theirs that runs; null leaves it to whoever takes it from the queue. */
  owner?: string | null;
}

/** Puts a job into the queue that is not the indexing of a build. */
export async function addJob(database: Queryable, job: NewJob): Promise<number> {
  const owner = job.owner ?? null;
  if (owner !== null && job.exclusive)
    throw new RangeError('addJob: an exclusive job goes through the queue');
  const { insertId } = await change(
    database,
    `INSERT INTO jobs (kind, state, build_id, replaces, source, subject, params, priority, exclusive, place, owner, lease_until)
     VALUES (?, ?, ?, 0, '', ?, ?, ?, ?, ?, ?, NOW(3) + INTERVAL ? SECOND)`,
    [
      job.kind,
      owner ? 'running' : 'waiting',
      job.buildId,
      job.subject,
      JSON.stringify(job.params),
      job.priority ?? 0,
      job.exclusive ? 1 : 0,
      job.place ?? null,
      owner,
      leaseSeconds,
    ],
  );
  return insertId;
}

/** A runner on this machine is dead when its process is; one elsewhere, when its lease ran out. */
export function isDead({ owner, leaseLives }: Pick<OpenJobRow, 'owner' | 'leaseLives'>): boolean {
  return (owner === null ? null : hasEnded(owner)) ?? leaseLives !== 1;
}
