import { hostname } from 'node:os';
import type { IntakeRequest, IntakeResult } from '../../contract/builds.ts';
import { intakeResultSchema } from '../../contract/builds.ts';
import { progressSchema, type Job, type JobState, type Progress } from '../../contract/work.ts';
import { inTransaction, type Pool } from '../database/pool.ts';
import { change, parseColumn, select, selectOne, type Queryable } from '../database/rows.ts';
import { ConflictError, NotFoundError, PlainError } from '../plain-error.ts';
import { isAlive, processMark } from '../process-mark.ts';

const leaseSeconds = 20;

/** Names this process in the queue: the machine and the process on it. */
export function ownerName(): string {
  return `${hostname()}/${processMark() ?? process.pid}`;
}

interface OpenJobRow {
  id: number;
  state: JobState;
  owner: string | null;
  leaseLives: number;
  sequence: number | null;
  source: string | null;
}

/**
 * Makes a job for a build, and title, channel and build where they are new. A job for the same build and source
 * that was stopped, failed or died is taken up again instead.
 * @param owner who runs it at once; null leaves it to whoever takes it from the queue
 * @throws ConflictError when the build is there already and is not to be replaced, or is being indexed
 */
export async function createJob(pool: Pool, request: IntakeRequest, owner: string | null): Promise<number> {
  const { threads } = request;
  return inTransaction(pool, async (connection) => {
    const channelId = await ensureChannel(connection, request.title, request.channel);
    const build = await ensureBuild(connection, channelId, request);
    const open = await selectOne<OpenJobRow>(
      connection,
      `SELECT j.id, j.state, j.owner, j.lease_until > NOW(3) AS leaseLives
         FROM jobs j WHERE j.build_id = ? AND j.state <> 'done' ORDER BY j.id DESC LIMIT 1 FOR UPDATE`,
      [build.id],
    );
    if (open && (open.state === 'waiting' || (open.state === 'running' && !isDead(open)))) {
      throw new ConflictError(`The build ${request.build} is being indexed already.`);
    }
    if (build.sequence !== null && !request.replace) {
      throw new ConflictError(
        `The build ${request.build} is indexed already; say --replace to index it again.`,
      );
    }
    if (open && build.source === request.source) {
      await change(
        connection,
        `UPDATE jobs SET state = ?, owner = ?, lease_until = NOW(3) + INTERVAL ? SECOND, stop_requested = 0, error = NULL,
           finished_at = NULL, threads = ? WHERE id = ?`,
        [owner ? 'running' : 'waiting', owner, leaseSeconds, threads, open.id],
      );
      return open.id;
    }
    if (build.sequence === null) {
      await change(connection, 'UPDATE builds SET source = ? WHERE id = ?', [request.source, build.id]);
    }
    if (open) await change(connection, "UPDATE jobs SET state = 'failed' WHERE id = ?", [open.id]);
    const { insertId } = await change(
      connection,
      `INSERT INTO jobs (state, build_id, replaces, threads, owner, lease_until, source)
       VALUES (?, ?, ?, ?, ?, NOW(3) + INTERVAL ? SECOND, ?)`,
      [
        owner ? 'running' : 'waiting',
        build.id,
        request.replace ? 1 : 0,
        threads,
        owner,
        leaseSeconds,
        request.source,
      ],
    );
    return insertId;
  });
}

/** Takes the oldest job that waits, or whose runner is dead; null where there is none. */
export async function claimJob(
  pool: Pool,
  owner: string,
): Promise<{ id: number; threads: number | null } | null> {
  return inTransaction(pool, async (connection) => {
    const rows = await select<OpenJobRow & { threads: number | null }>(
      connection,
      `SELECT id, state, owner, threads, lease_until > NOW(3) AS leaseLives FROM jobs
        WHERE state IN ('waiting', 'running') ORDER BY id FOR UPDATE SKIP LOCKED`,
    );
    const job = rows.find((row) => row.state === 'waiting' || isDead(row));
    if (!job) return null;
    await change(
      connection,
      "UPDATE jobs SET state = 'running', owner = ?, lease_until = NOW(3) + INTERVAL ? SECOND, stop_requested = 0 WHERE id = ?",
      [owner, leaseSeconds, job.id],
    );
    return { id: job.id, threads: job.threads };
  });
}

/** Renews the lease and writes the progress. @returns whether somebody asked the job to stop */
export async function renewLease(
  database: Queryable,
  jobId: number,
  owner: string,
  progress: Progress,
): Promise<boolean> {
  const { changed } = await change(
    database,
    "UPDATE jobs SET progress = ?, lease_until = NOW(3) + INTERVAL ? SECOND WHERE id = ? AND owner = ? AND state = 'running'",
    [JSON.stringify(progress), leaseSeconds, jobId, owner],
  );
  if (changed === 0) throw new PlainError('Another process has taken this job over.');
  const row = await selectOne<{ stop: number }>(
    database,
    'SELECT stop_requested AS stop FROM jobs WHERE id = ?',
    [jobId],
  );
  return row?.stop === 1;
}

export async function finishJob(
  database: Queryable,
  jobId: number,
  outcome: { state: 'done'; result: IntakeResult } | { state: 'failed' | 'stopped'; error: string },
): Promise<void> {
  const result = outcome.state === 'done' ? JSON.stringify(outcome.result) : null;
  const error = outcome.state === 'done' ? null : outcome.error;
  await change(
    database,
    'UPDATE jobs SET state = ?, result = ?, error = ?, owner = NULL, finished_at = NOW(3) WHERE id = ?',
    [outcome.state, result, error, jobId],
  );
}

/** Puts a job back into the queue. */
export async function returnJob(database: Queryable, jobId: number): Promise<void> {
  await change(database, "UPDATE jobs SET state = 'waiting', owner = NULL, stop_requested = 0 WHERE id = ?", [
    jobId,
  ]);
}

/** Asks a running job to stop; one that waits is stopped at once. */
export async function stopJob(database: Queryable, jobId: number): Promise<void> {
  await change(database, "UPDATE jobs SET stop_requested = 1 WHERE id = ? AND state = 'running'", [jobId]);
  await change(
    database,
    "UPDATE jobs SET state = 'stopped', finished_at = NOW(3) WHERE id = ? AND state = 'waiting'",
    [jobId],
  );
}

/** @throws ConflictError when the job is not one that can go on */
export async function resumeJob(database: Queryable, jobId: number): Promise<void> {
  const { changed } = await change(
    database,
    `UPDATE jobs SET state = 'waiting', owner = NULL, stop_requested = 0, error = NULL, finished_at = NULL
      WHERE id = ? AND state IN ('stopped', 'failed')`,
    [jobId],
  );
  if (changed === 0) throw new ConflictError('Only a job that was stopped or has failed can be resumed.');
}

interface JobRow {
  id: number;
  state: JobState;
  title: string;
  channel: string;
  build: string;
  source: string;
  progress: unknown;
  result: unknown;
  error: string | null;
  createdAt: Date;
  finishedAt: Date | null;
}

const jobColumns = `SELECT j.id, j.state, t.name AS title, c.name AS channel, b.label AS build, j.source, j.progress, j.result,
    j.error, j.created_at AS createdAt, j.finished_at AS finishedAt
  FROM jobs j JOIN builds b ON b.id = j.build_id JOIN channels c ON c.id = b.channel_id JOIN titles t ON t.id = c.title_id`;

/** The newest hundred, newest first. */
export async function listJobs(database: Queryable): Promise<Job[]> {
  return (await select<JobRow>(database, `${jobColumns} ORDER BY j.id DESC LIMIT 100`)).map(toJob);
}

/** @throws NotFoundError */
export async function findJob(database: Queryable, jobId: number): Promise<Job> {
  const row = await selectOne<JobRow>(database, `${jobColumns} WHERE j.id = ?`, [jobId]);
  if (!row) throw new NotFoundError(`There is no job ${jobId}.`);
  return toJob(row);
}

function toJob(row: JobRow): Job {
  const progress = parseColumn(row.progress);
  const result = parseColumn(row.result);
  return {
    ...row,
    progress: progress === null ? null : progressSchema.parse(progress),
    result: result === null ? null : intakeResultSchema.parse(result),
    createdAt: row.createdAt.toISOString(),
    finishedAt: row.finishedAt?.toISOString() ?? null,
  };
}

/** A runner on this machine is dead when its process is; one elsewhere, when its lease ran out. */
function isDead({ owner, leaseLives }: Pick<OpenJobRow, 'owner' | 'leaseLives'>): boolean {
  const prefix = `${hostname()}/`;
  if (owner?.startsWith(prefix)) return !isAlive(owner.slice(prefix.length));
  return leaseLives !== 1;
}

async function ensureChannel(database: Queryable, title: string, channel: string): Promise<number> {
  await change(database, "INSERT IGNORE INTO titles (name, rights) VALUES (?, '')", [title]);
  const titleRow = await selectOne<{ id: number }>(database, 'SELECT id FROM titles WHERE name = ?', [title]);
  await change(database, 'INSERT IGNORE INTO channels (title_id, name) VALUES (?, ?)', [
    titleRow?.id ?? 0,
    channel,
  ]);
  const row = await selectOne<{ id: number }>(
    database,
    'SELECT id FROM channels WHERE title_id = ? AND name = ?',
    [titleRow?.id ?? 0, channel],
  );
  if (!row) throw new Error('ensureChannel: the channel was not made');
  return row.id;
}

async function ensureBuild(
  database: Queryable,
  channelId: number,
  { build, source, releasedAt }: IntakeRequest,
): Promise<{ id: number; sequence: number | null; source: string }> {
  await change(
    database,
    'INSERT IGNORE INTO builds (channel_id, label, source, released_at) VALUES (?, ?, ?, ?)',
    [channelId, build, source, releasedAt ? new Date(releasedAt) : new Date()],
  );
  const row = await selectOne<{ id: number; sequence: number | null; source: string }>(
    database,
    'SELECT id, sequence, source FROM builds WHERE channel_id = ? AND label = ? FOR UPDATE',
    [channelId, build],
  );
  if (!row) throw new Error('ensureBuild: the build was not made');
  return row;
}
