import { lstatSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import type { IntakeResult } from '../../contract/builds.ts';
import type { Progress } from '../../contract/work.ts';
import type { DataFolder } from '../data-folder.ts';
import { openPool, type DatabaseAddress, type Pool } from '../database/pool.ts';
import { selectOne } from '../database/rows.ts';
import { NotFoundError, PlainError } from '../plain-error.ts';
import { readFacts } from '../readers/read-facts.ts';
import { pathDigest } from '../store/hash.ts';
import { mendStore } from '../store/mend.ts';
import { ProgressMeter } from '../work/progress-meter.ts';
import { renewLease } from '../work/queue.ts';
import { StoppedError } from '../work/stop.ts';
import { Crew } from './crew.ts';
import type { SourceFile } from './messages.ts';
import { role } from './recorder.ts';
import { loadKnown } from './load-known.ts';
import { checkSource } from './source-path.ts';
import { countStaged, forgetUnits, prepareResume } from './staging.ts';
import { writeBuild } from './write-build.ts';

export interface IndexOptions {
  address: DatabaseAddress;
  folder: DataFolder;
  jobId: number;
  /** Who holds the job's lease. */
  owner: string;
  threads?: number | null;
  onProgress?: (progress: Progress) => void;
  signal: AbortSignal;
}

const reportMs = 500;

interface JobRow {
  buildId: number;
  source: string;
  title: string;
  channel: string;
  build: string;
}

/**
 * Carries out one job: walks the source, reads and stores, reads the facts of what is new, writes the build.
 * A job that was stopped or killed goes on where it was.
 * @throws StoppedError when somebody asked for it, PlainError when the source is not there
 */
export async function runIndex(options: IndexOptions): Promise<IntakeResult> {
  const pool = openPool(options.address, 4);
  const startMs = Date.now();
  const threads = options.threads ?? availableParallelism();
  const meter = new ProgressMeter();
  const stop = new AbortController();
  options.signal.addEventListener('abort', () => stop.abort(new StoppedError()));
  let counts = { files: 0, bytes: 0 };
  const report = async (): Promise<void> => {
    const progress = meter.measure(counts.files, counts.bytes);
    options.onProgress?.(progress);
    if (await renewLease(pool, options.jobId, options.owner, progress)) stop.abort(new StoppedError());
  };
  const timer = setInterval(() => void report().catch((error: unknown) => stop.abort(error)), reportMs);
  let crew: Crew | null = null;
  try {
    const job = await findJob(pool, options.jobId);
    checkSource(job.source);
    const { store, temporary } = options.folder;
    // The threads take a while to start: they do so while the tables are asked.
    crew = new Crew(threads, {
      address: options.address,
      store,
      temporary,
      jobId: options.jobId,
      source: job.source,
    });
    await mendStore(pool, options.folder.store);
    await readSource(pool, options, job, meter, crew, stop.signal, (now) => (counts = now));
    await readFacts(pool, options.folder.store, options.jobId, crew.threads, stop.signal, (done, total) => {
      if (meter.phase !== 'reading facts') meter.begin('reading facts', total, null);
      counts = { files: done, bytes: 0 };
    });
    await crew.dismiss();
    meter.begin('writing the build', null, null);
    const staged = await countStaged(pool, options.jobId);
    stop.signal.throwIfAborted();
    const result = {
      title: job.title,
      channel: job.channel,
      build: job.build,
      ...staged,
      seconds: Math.round(Date.now() - startMs) / 1000,
    };
    counts = { files: staged.files, bytes: staged.bytes };
    await writeBuild(pool, options.jobId, job.buildId, result);
    result.seconds = Math.round(Date.now() - startMs) / 1000;
    await report();
    return result;
  } finally {
    clearInterval(timer);
    await crew?.dismiss();
    await pool.end();
  }
}

async function findJob(pool: Pool, jobId: number): Promise<JobRow> {
  const job = await selectOne<JobRow>(
    pool,
    `SELECT j.build_id AS buildId, j.source, t.name AS title, c.name AS channel, b.label AS build
       FROM jobs j JOIN builds b ON b.id = j.build_id JOIN channels c ON c.id = b.channel_id
       JOIN titles t ON t.id = c.title_id WHERE j.id = ?`,
    [jobId],
  );
  if (!job) throw new NotFoundError(`There is no job ${jobId}.`);
  return job;
}

async function readSource(
  pool: Pool,
  { jobId }: IndexOptions,
  { source }: JobRow,
  meter: ProgressMeter,
  crew: Crew,
  signal: AbortSignal,
  count: (counts: { files: number; bytes: number }) => void,
): Promise<void> {
  const sourceKind = checkSource(source);
  const done = await prepareResume(pool, jobId);
  const stale = [...done.keys()].filter((path) => !isUnchanged(source, done.get(path)));
  await forgetUnits(pool, jobId, stale.map(pathDigest));
  for (const path of stale) done.delete(path);
  const found = { files: 0, bytes: 0 };
  const skipped = { files: 0, bytes: 0 };

  const take = (file: SourceFile): void => {
    found.files++;
    found.bytes += file.size;
    if (done.has(file.path)) {
      skipped.files++;
      skipped.bytes += file.size;
    } else {
      crew.add(file);
    }
  };
  crew.onFound = (files) => files.forEach(take);
  crew.begin(await loadKnown(pool, jobId));
  const timer = setInterval(() => {
    const { files, readBytes } = crew.counts;
    count({ files: skipped.files + files, bytes: skipped.bytes + readBytes });
    if (found.bytes > 0 && meter.phase === 'finding files') meter.begin('reading files', null, null);
    meter.totalBytes = found.bytes;
  }, reportMs / 2);
  const aborted = new Promise<never>((_, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
  });
  try {
    signal.throwIfAborted();
    if (sourceKind === 'folder') crew.walk();
    else take(lookAt(source, ''));
    await Promise.race([crew.end(), aborted]);
    if (sourceKind === 'file') await refuseUnopened(pool, jobId, source);
  } finally {
    clearInterval(timer);
  }
}

function lookAt(source: string, path: string): SourceFile {
  const { size, mtimeMs } = lstatSync(join(source, path));
  return { path, size, modifiedMs: mtimeMs };
}

function isUnchanged(source: string, file: SourceFile | undefined): boolean {
  const now = file && lstatSync(join(source, file.path), { throwIfNoEntry: false });
  return now !== undefined && now.size === file?.size && now.mtimeMs === file.modifiedMs;
}

/** A source that is a file has to be an archive that opens. */
async function refuseUnopened(pool: Pool, jobId: number, source: string): Promise<void> {
  const digest = pathDigest('');
  const row = await selectOne<{ role: number; reason: string | null }>(
    pool,
    `SELECT i.role, q.reason FROM intake_assets i
       LEFT JOIN intake_problems q ON q.job_id = i.job_id AND q.path_digest = i.path_digest
      WHERE i.job_id = ? AND i.path_digest = ?`,
    [jobId, digest],
  );
  if (row?.role === role.container) return;
  await forgetUnits(pool, jobId, [digest]);
  throw new PlainError(
    `The source ${source} is a file, and not an archive that can be opened${row?.reason ? `: ${row.reason}` : ''}.`,
  );
}
