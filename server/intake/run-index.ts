import { availableParallelism } from 'node:os';
import type { IntakeResult } from '../../contract/builds.ts';
import type { Progress } from '../../contract/work.ts';
import { role } from '../builds/spans.ts';
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
import { findBase, type BaseBuild } from './base-build.ts';
import { Crew } from './crew.ts';
import type { CrewThreads } from './crew-threads.ts';
import { KnownBuild } from './known-build.ts';
import type { SourceFile } from './messages.ts';
import { checkSource } from './source-path.ts';
import { clearStaging, countStaged, prepareResume, recallMet, settleBase, stageGone } from './staging.ts';
import { lookAt } from './walk.ts';
import { BaseMovedError, writeBuild } from './write-build.ts';

export interface IndexOptions {
  address: DatabaseAddress;
  folder: DataFolder;
  crewThreads: CrewThreads;
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
  channelId: number;
  /** Null where the build is not there yet. */
  sequence: number | null;
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
  try {
    const job = await findJob(pool, options.jobId);
    checkSource(job.source);
    await mendStore(pool, options.folder.store);
    const run: Run = {
      pool,
      options,
      job,
      meter,
      signal: stop.signal,
      startMs,
      count: (now) => (counts = now),
    };
    for (;;) {
      try {
        const result = await indexOnce(run);
        counts = { files: result.files, bytes: result.bytes };
        await report();
        return result;
      } catch (error) {
        // Once more, as a difference to the build that came in between: its contents are in the store by now.
        if (!(error instanceof BaseMovedError)) throw error;
      }
    }
  } finally {
    clearInterval(timer);
    await pool.end();
  }
}

interface Run {
  pool: Pool;
  options: IndexOptions;
  job: JobRow;
  meter: ProgressMeter;
  signal: AbortSignal;
  startMs: number;
  count: (counts: { files: number; bytes: number }) => void;
}

async function indexOnce(run: Run): Promise<IntakeResult> {
  const { pool, options, job, meter, signal, startMs, count } = run;
  const { jobId } = options;
  const { store } = options.folder;
  const threads = options.threads ?? availableParallelism();
  const crew = new Crew(options.crewThreads, threads, { jobId, source: job.source });
  try {
    const newest = await findBase(pool, job.channelId);
    // A build that is there already is gathered whole, and takes its own place again.
    const base = newest?.isUpToDate && job.sequence === null ? newest : null;
    await settleBase(pool, jobId, base?.key ?? '');
    const known = await readSource(run, crew, newest, base);
    await readFacts(pool, store, jobId, known, crew.threads, signal, (done, total) => {
      if (meter.phase !== 'reading facts') meter.begin('reading facts', total, null);
      count({ files: done, bytes: 0 });
    });
    await crew.whenSealed();
    crew.release();
    meter.begin('writing the build', null, null);
    if (base) await stageGone(pool, jobId, known);
    const staged = await countStaged(pool, jobId, known.countUnchanged());
    signal.throwIfAborted();
    const result = {
      title: job.title,
      channel: job.channel,
      build: job.build,
      ...staged,
      seconds: Math.round(Date.now() - startMs) / 1000,
    };
    const isSameSource = base?.source === job.source;
    await writeBuild(pool, { jobId, buildId: job.buildId, base, isSameSource, result });
    // A crash before this leaves rows that nothing reads.
    await clearStaging(pool, jobId);
    return { ...result, seconds: Math.round(Date.now() - startMs) / 1000 };
  } finally {
    await crew.dismiss();
  }
}

async function findJob(pool: Pool, jobId: number): Promise<JobRow> {
  const job = await selectOne<JobRow>(
    pool,
    `SELECT j.build_id AS buildId, b.channel_id AS channelId, b.sequence, j.source, t.name AS title, c.name AS channel,
         b.label AS build
       FROM jobs j JOIN builds b ON b.id = j.build_id JOIN channels c ON c.id = b.channel_id
       JOIN titles t ON t.id = c.title_id WHERE j.id = ?`,
    [jobId],
  );
  if (!job) throw new NotFoundError(`There is no job ${jobId}.`);
  return job;
}

/** Has the crew read the source. @returns the build before, with what was met of it */
async function readSource(
  { pool, options: { jobId }, job: { source, channelId }, meter, signal, count }: Run,
  crew: Crew,
  newest: BaseBuild | null,
  base: BaseBuild | null,
): Promise<KnownBuild> {
  const sourceKind = checkSource(source);
  const done = await prepareResume(pool, jobId, (path, signature) => isStill(source, path, signature));
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
  const timer = setInterval(() => {
    const { files, readBytes } = crew.counts;
    count({ files: skipped.files + files, bytes: skipped.bytes + readBytes });
    if (found.bytes > 0 && meter.phase === 'finding files') meter.begin('reading files', null, null);
    meter.totalBytes = found.bytes;
  }, reportMs / 2);
  const aborted = new Promise<never>((_, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
  });
  // Whoever waits for it hears of it; it must not count as unheard before somebody does.
  aborted.catch(() => undefined);
  try {
    signal.throwIfAborted();
    if (sourceKind === 'folder') crew.walk();
    else take(lookAt(source, ''));
    const known = await KnownBuild.load(pool, { channelId, base: newest, isBase: base !== null, source });
    if (base) await recallMet(pool, jobId, known);
    crew.begin(known.memory);
    await Promise.race([crew.end(), aborted]);
    if (sourceKind === 'file') await refuseUnopened(pool, jobId, known, source);
    return known;
  } finally {
    clearInterval(timer);
  }
}

function isStill(source: string, path: string, signature: string): boolean {
  try {
    return lookAt(source, path).signature === signature;
  } catch {
    // It is there no more.
    return false;
  }
}

/** A source that is a file has to be an archive that opens. */
async function refuseUnopened(pool: Pool, jobId: number, known: KnownBuild, source: string): Promise<void> {
  const digest = pathDigest('');
  if (known.isUnchangedContainer(digest)) return;
  const row = await selectOne<{ role: number; reason: string | null }>(
    pool,
    `SELECT i.role, q.reason FROM intake_assets i
       LEFT JOIN intake_problems q ON q.job_id = i.job_id AND q.path_digest = i.path_digest
      WHERE i.job_id = ? AND i.path_digest = ?`,
    [jobId, digest],
  );
  if (row?.role === role.container) return;
  await clearStaging(pool, jobId);
  throw new PlainError(
    `The source ${source} is a file, and not an archive that can be opened${row?.reason ? `: ${row.reason}` : ''}.`,
  );
}
