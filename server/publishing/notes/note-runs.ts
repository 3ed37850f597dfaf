import { rm } from 'node:fs/promises';
import * as z from 'zod';
import { stepOutcomeSchema, type NoteRun, type NoteStep, type StepOutcome } from '../../../contract/notes.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import type { HaulContext } from '../../hauls/begin-haul.ts';
import { findRun, forgetRun, listResults, listRuns } from '../../hauls/runs.ts';
import { keptRunFolder } from '../../hauls/target-folder.ts';
import { change, parseColumn, select, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError, PlainError } from '../../platform/plain-error.ts';
import { pathDigest } from '../../store/hash.ts';
import { compareFiles } from './compare-files.ts';
import { findNote, stepsOf } from './notes.ts';
import { tryStep } from './try-step.ts';

const outcomesSchema = z.array(stepOutcomeSchema);
const mostFiles = 20_000;

/**
 * Runs a note again, step by step: each is tried by itself, so that all that does not fit is told at once.
 * @throws PlainError where the note has no steps
 */
export async function runNote(
  services: HaulContext,
  { channel, path, build, folder }: { channel: number; path: string; build: string; folder: string },
  by: string,
): Promise<NoteRun> {
  const { pool } = services;
  const note = await findNote(pool, channel, path);
  if (note.steps.length === 0) throw new PlainError('This note has no steps that could be run again.');
  await forgetFormer(services, channel, path);
  const titleId = await findTitleOf(pool, channel);
  const outcomes: StepOutcome[] = [];
  const several = note.steps.filter(({ does }) => does === 'take out').length > 1;
  for (const [at, step] of note.steps.entries()) {
    const target = folder === '' || !several ? folder : `${folder}/step-${at + 1}`;
    outcomes.push(await tryStep({ ...services, channelId: channel, titleId, build, target }, step));
  }
  const { insertId } = await change(
    pool,
    `INSERT INTO note_runs (channel_id, path_digest, build, done_by, revision, steps, outcomes)
       VALUES (?, ?, ?, ?, ?, ?, ?)`,
    [
      channel,
      pathDigest(path),
      build,
      by,
      note.revision,
      JSON.stringify(note.steps),
      JSON.stringify(outcomes),
    ],
  );
  return findNoteRun(services, insertId);
}

interface RunRow {
  id: number;
  channel: number;
  path: string;
  build: string;
  by: string;
  startedAt: Date;
  revision: number;
  steps: unknown;
  outcomes: unknown;
}

const runColumns = `SELECT r.id, r.channel_id AS channel, p.path, r.build, r.done_by AS 'by', r.started_at AS startedAt,
  r.revision, r.steps, r.outcomes FROM note_runs r JOIN paths p ON p.digest = r.path_digest`;

/** @throws NotFoundError */
export async function findNoteRun(services: HaulContext, id: number): Promise<NoteRun> {
  const [row] = await select<RunRow>(services.pool, `${runColumns} WHERE r.id = ?`, [id]);
  if (!row) throw new NotFoundError(`There is no run ${id} of a note.`);
  return completed(services, row);
}

/** The last run of a note; null where it was never run. */
export async function lastNoteRun(
  services: HaulContext,
  channel: number,
  path: string,
): Promise<NoteRun | null> {
  const [row] = await select<RunRow>(
    services.pool,
    `${runColumns} WHERE r.channel_id = ? AND r.path_digest = ? ORDER BY r.id DESC LIMIT 1`,
    [channel, pathDigest(path)],
  );
  return row ? completed(services, row) : null;
}

/** A run with what has come meanwhile of what it put into the queue. */
async function completed({ pool }: HaulContext, row: RunRow): Promise<NoteRun> {
  const steps = stepsOf(row.steps);
  const outcomes = outcomesSchema.parse(parseColumn(row.outcomes));
  const jobs: number[] = [];
  let isChanged = false;
  for (const [at, { verdict, haulRun }] of outcomes.entries()) {
    const step = steps[at];
    if (verdict !== 'running' || haulRun === null || step?.does !== 'take out') continue;
    const next = await outcomeOf(pool, row, step, haulRun);
    if ('job' in next) jobs.push(next.job);
    else {
      outcomes[at] = next;
      isChanged = true;
    }
  }
  if (isChanged)
    await change(pool, 'UPDATE note_runs SET outcomes = ? WHERE id = ?', [JSON.stringify(outcomes), row.id]);
  return { ...row, startedAt: row.startedAt.toISOString(), steps, outcomes, jobs };
}

async function outcomeOf(
  pool: Queryable,
  { channel, build }: RunRow,
  step: Extract<NoteStep, { does: 'take out' }>,
  haulRun: number,
): Promise<StepOutcome | { job: number }> {
  const [run] = await listRuns(pool, channel, haulRun);
  const failed = (sentence: string): StepOutcome => ({
    ...{ verdict: 'does not fit', sentence, proposed: null, haulRun },
  });
  if (!run) return failed('What it took out was thrown away.');
  if (run.state === 'waiting' || run.state === 'running')
    return run.jobId === null ? failed('Nobody takes it out.') : { job: run.jobId };
  if (run.state !== 'done') return failed(`Taking out was ${run.state}; the note can be run again.`);
  const results = await listResults(pool, haulRun, '', 0, mostFiles);
  const failures = results
    .filter((one) => one.verdict === 'failed')
    .map((one) => `${one.path}: ${one.sentence}`);
  const files = results.flatMap((one) => one.files);
  return { ...compareFiles(step, build || step.build, files, failures), haulRun };
}

/** What an earlier run kept with the data goes when the note is run once more. @throws ConflictError while it is at work */
async function forgetFormer(services: HaulContext, channel: number, path: string): Promise<void> {
  const former = await lastNoteRun(services, channel, path);
  if (!former) return;
  if (former.jobs.length > 0) throw new ConflictError('This note is being run: wait for it, or stop it.');
  for (const { haulRun } of former.outcomes) {
    if (haulRun === null) continue;
    const run = await findRun(services.pool, haulRun).catch((error: unknown) => {
      if (error instanceof NotFoundError) return null;
      throw error;
    });
    if (run?.folder !== '') continue;
    await forgetRun(services.pool, haulRun);
    await rm(keptRunFolder(services.folder.root, haulRun), { recursive: true, force: true });
  }
  await change(services.pool, 'DELETE FROM note_runs WHERE id = ?', [former.id]);
}
