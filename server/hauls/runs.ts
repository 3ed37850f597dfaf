import * as z from 'zod';
import { arrangementSchema } from '../../contract/arrangements.ts';
import { haulSettingsSchema, type HaulSettings } from '../../contract/haul-settings.ts';
import {
  haulResultSchema,
  writtenFileSchema,
  wornPictureSchema,
  plannedFileSchema,
  type HaulResult,
  type HaulRun,
  type Verdict,
} from '../../contract/hauls.ts';
import { addJob } from '../jobs/queue.ts';
import { inTransaction, type Pool } from '../platform/database/pool.ts';
import { change, parseColumn, select, selectOne, type Queryable } from '../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../platform/plain-error.ts';
import type { PlannedWriting, WholePlan } from './plan.ts';
import { asItLay } from '../../contract/haul-settings.ts';
import { pathDigest } from '../store/hash.ts';

const rowsAtOnce = 500;

const writingSchema = plannedFileSchema.extend({
  stem: z.string(),
  endings: z.array(z.string()),
  family: z.string().default(''),
  together: z.array(z.object({ path: z.string(), hash: z.string() })).default([]),
  arrangement: arrangementSchema.pick({ name: true, setUp: true }).nullable().default(null),
  space: z.enum(['sRGB', 'linear']).nullable(),
  isNormal: z.boolean(),
  worn: z.array(wornPictureSchema),
});
const filesSchema = z.array(writtenFileSchema);

export interface Run {
  id: number;
  channelId: number;
  name: string;
  settings: HaulSettings;
  /** Empty where it is kept with the data. */
  folder: string;
}

/** Writes down what is to be written, and puts the work into the queue. @returns the run and its job */
export async function startRun(
  pool: Pool,
  run: Omit<Run, 'id'> & { haulId: number | null; place: string },
  { writings, refused }: Pick<WholePlan, 'writings' | 'refused'>,
): Promise<{ runId: number; jobId: number }> {
  return inTransaction(pool, async (connection) => {
    const { insertId: runId } = await change(
      connection,
      'INSERT INTO haul_runs (channel_id, haul_id, name, settings, folder) VALUES (?, ?, ?, ?, ?)',
      [run.channelId, run.haulId, run.name, JSON.stringify(run.settings), run.folder],
    );
    const rows = [
      ...writings.map((writing) => ({ writing, verdict: 'waiting', sentence: '' })),
      // What cannot be taken out is told with what came of the others.
      ...refused.map(({ path, reason }) => ({
        writing: nothingOf(path),
        verdict: 'failed',
        sentence: `${reason.charAt(0).toUpperCase()}${reason.slice(1)}.`,
      })),
    ];
    for (let from = 0; from < rows.length; from += rowsAtOnce) {
      const part = rows.slice(from, from + rowsAtOnce);
      await change(
        connection,
        `INSERT INTO haul_files (run_id, number, path_digest, plan, verdict, sentence) VALUES ${part.map(() => '(?, ?, ?, ?, ?, ?)').join(', ')}`,
        part.flatMap(({ writing, verdict, sentence }, at) => [
          ...[runId, from + at, pathDigest(writing.path), JSON.stringify(writing), verdict, sentence],
        ]),
      );
    }
    const jobId = await addJob(connection, {
      kind: 'haul',
      buildId: null,
      subject: run.name,
      params: { runId },
      place: run.place,
    });
    await change(connection, 'UPDATE haul_runs SET job_id = ? WHERE id = ?', [jobId, runId]);
    return { runId, jobId };
  });
}

function nothingOf(path: string): PlannedWriting {
  return {
    ...{
      path,
      target: '',
      format: asItLay,
      build: '',
      hash: '',
      kind: 'other',
      from: 'binary',
      why: 'chosen',
    },
    ...{ sourceBytes: 0, bytes: 0, losses: [], insteadOf: '', stem: '', endings: [], space: null },
    ...{ family: '', together: [], arrangement: null },
    ...{ isNormal: false, worn: [] },
  };
}

/** @throws NotFoundError */
export async function findRun(database: Queryable, id: number): Promise<Run> {
  const row = await selectOne<Omit<Run, 'settings'> & { settings: unknown }>(
    database,
    'SELECT id, channel_id AS channelId, name, settings, folder FROM haul_runs WHERE id = ?',
    [id],
  );
  if (!row) throw new NotFoundError(`There is no haul that was written under the number ${id}.`);
  return { ...row, settings: haulSettingsSchema.parse(parseColumn(row.settings)) };
}

interface RunRow {
  id: number;
  haul: number | null;
  name: string;
  jobId: number | null;
  folder: string;
  state: string | null;
  startedAt: Date;
  finishedAt: Date | null;
}

/** The newest fifty of a channel, newest first. @param id one alone */
export async function listRuns(
  database: Queryable,
  channelId: number,
  id: number | null = null,
): Promise<HaulRun[]> {
  const rows = await select<RunRow>(
    database,
    `SELECT r.id, r.haul_id AS haul, r.name, r.job_id AS jobId, r.folder, j.state, r.started_at AS startedAt, r.finished_at AS finishedAt
       FROM haul_runs r LEFT JOIN jobs j ON j.id = r.job_id WHERE r.channel_id = ? AND (? IS NULL OR r.id = ?) ORDER BY r.id DESC LIMIT 50`,
    [channelId, id, id],
  );
  if (rows.length === 0) return [];
  const counts = await select<{ runId: number; verdict: Verdict; count: number }>(
    database,
    'SELECT run_id AS runId, verdict, COUNT(*) AS count FROM haul_files WHERE run_id IN (?) GROUP BY run_id, verdict',
    [rows.map((row) => row.id)],
  );
  return rows.map(({ startedAt, finishedAt, state, ...row }) => {
    const own = counts.filter(({ runId }) => runId === row.id);
    const of = (verdict: Verdict): number => own.find((one) => one.verdict === verdict)?.count ?? 0;
    return {
      ...row,
      state: finishedAt ? 'done' : (state ?? 'stopped'),
      startedAt: startedAt.toISOString(),
      finishedAt: finishedAt?.toISOString() ?? null,
      files: own.reduce((sum, { count }) => sum + count, 0),
      same: of('the same'),
      differs: of('differs'),
      unchecked: of('not checked'),
      failed: of('failed'),
    };
  });
}

interface ResultRow {
  number: number;
  plan: unknown;
  verdict: Verdict;
  sentence: string;
  files: unknown;
}

const resultColumns = 'SELECT number, plan, verdict, sentence, files FROM haul_files';

function toResult({ plan, verdict, sentence, files }: ResultRow): HaulResult & { writing: PlannedWriting } {
  const writing = writingSchema.parse(parseColumn(plan));
  return {
    ...haulResultSchema.parse({
      ...{ path: writing.path, target: writing.target, verdict, sentence },
      files: filesSchema.parse(parseColumn(files) ?? []),
    }),
    writing,
  };
}

/** What came of a run's assets. @param verdict those alone; empty for all */
export async function listResults(
  database: Queryable,
  runId: number,
  verdict: Verdict | '',
  offset: number,
  limit: number,
): Promise<(HaulResult & { writing: PlannedWriting })[]> {
  const rows = await select<ResultRow>(
    database,
    `${resultColumns} WHERE run_id = ? ${verdict === '' ? '' : 'AND verdict = ?'} ORDER BY number LIMIT ? OFFSET ?`,
    [runId, ...(verdict === '' ? [] : [verdict]), limit, offset],
  );
  return rows.map(toResult);
}

/** What is still to be written, from a number on. */
export async function listWaiting(
  database: Queryable,
  runId: number,
  from: number,
  limit: number,
): Promise<{ number: number; writing: PlannedWriting }[]> {
  const rows = await select<ResultRow>(
    database,
    `${resultColumns} WHERE run_id = ? AND verdict = 'waiting' AND number >= ? ORDER BY number LIMIT ?`,
    [runId, from, limit],
  );
  return rows.map((row) => ({ number: row.number, writing: toResult(row).writing }));
}

export async function countWaiting(
  database: Queryable,
  runId: number,
): Promise<{ total: number; waiting: number }> {
  const row = await selectOne<{ total: number; waiting: number | null }>(
    database,
    "SELECT COUNT(*) AS total, SUM(verdict = 'waiting') AS waiting FROM haul_files WHERE run_id = ?",
    [runId],
  );
  return { total: row?.total ?? 0, waiting: Number(row?.waiting ?? 0) };
}

export interface FileOutcome extends Pick<HaulResult, 'verdict' | 'sentence' | 'files'> {
  number: number;
}

/** Writes down what came of files. */
export async function keepOutcomes(
  database: Queryable,
  runId: number,
  outcomes: readonly FileOutcome[],
): Promise<void> {
  for (let from = 0; from < outcomes.length; from += rowsAtOnce) {
    const part = outcomes.slice(from, from + rowsAtOnce);
    // The rows are there: this changes them, many at once.
    await change(
      database,
      `INSERT INTO haul_files (run_id, number, plan, verdict, sentence, files) VALUES ${part.map(() => "(?, ?, '{}', ?, ?, ?)").join(', ')}
        ON DUPLICATE KEY UPDATE verdict = VALUES(verdict), sentence = VALUES(sentence), files = VALUES(files)`,
      part.flatMap(({ number, verdict, sentence, files }) => [
        ...[runId, number, verdict, sentence, JSON.stringify(files)],
      ]),
    );
  }
}

/** The newest run of a channel that wrote an asset; null where none did. */
export async function newestRunOf(
  database: Queryable,
  channelId: number,
  path: string,
): Promise<number | null> {
  const row = await selectOne<{ id: number | null }>(
    database,
    `SELECT MAX(f.run_id) AS id FROM haul_files f JOIN haul_runs r ON r.id = f.run_id
      WHERE f.path_digest = ? AND r.channel_id = ? AND f.verdict NOT IN ('waiting', 'failed') AND r.finished_at IS NOT NULL`,
    [pathDigest(path), channelId],
  );
  return row?.id ?? null;
}

export async function finishRun(database: Queryable, runId: number): Promise<void> {
  await change(database, 'UPDATE haul_runs SET finished_at = NOW(3) WHERE id = ?', [runId]);
}

/** All files that a run wrote, by name and size; they were checked when they were written down. */
export async function listWrittenFiles(
  database: Queryable,
  runId: number,
): Promise<{ target: string; bytes: number }[]> {
  const rows = await select<{ files: unknown }>(
    database,
    'SELECT files FROM haul_files WHERE run_id = ? AND files IS NOT NULL ORDER BY number',
    [runId],
  );
  return rows.flatMap(({ files }) => parseColumn(files) as { target: string; bytes: number }[]);
}

/** @throws ConflictError while it is written */
export async function forgetRun(database: Queryable, runId: number): Promise<void> {
  const row = await selectOne<{ state: string | null }>(
    database,
    'SELECT j.state FROM haul_runs r LEFT JOIN jobs j ON j.id = r.job_id WHERE r.id = ?',
    [runId],
  );
  if (row?.state === 'running' || row?.state === 'waiting')
    throw new ConflictError('It is being written: stop that first.');
  await change(database, 'DELETE FROM haul_runs WHERE id = ?', [runId]);
}
