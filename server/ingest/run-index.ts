import { availableParallelism } from 'node:os';
import { isDeepStrictEqual } from 'node:util';
import type { IntakeResult } from '../../contract/builds.ts';
import { settingsOf } from '../acquire/builds/settings.ts';
import { role } from '../acquire/builds/spans.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import { openPool, type DatabaseAddress, type Pool } from '../platform/database/pool.ts';
import { selectOne } from '../platform/database/rows.ts';
import { NotFoundError, PlainError } from '../platform/plain-error.ts';
import { readFacts } from '../decode/read-facts.ts';
import { pathDigest } from '../store/hash.ts';
import { mendStore } from '../store/mend.ts';
import { JobLease, type LeaseOptions } from '../jobs/job-lease.ts';
import { findBase } from './base-build.ts';
import { Crew } from './crew.ts';
import type { CrewThreads } from './crew-threads.ts';
import { intakeJob, planReading, type BuildToRead, type ReadingPlan } from './reading-plan.ts';
import { KnownBuild, type KnownRequest } from './known-build.ts';
import type { SourceFile } from './messages.ts';
import { clearStaging, countStaged, prepareResume, recallMet, settleBase, stageGone } from './staging.ts';
import { lookAt } from './walk.ts';
import { BaseMovedError, writeBuild } from './write-build.ts';

export interface IndexOptions extends LeaseOptions {
  address: DatabaseAddress;
  folder: DataFolder;
  crewThreads: CrewThreads;
  threads?: number | null;
}

const lookMs = 250;

interface JobRow extends BuildToRead {
  /** Null where the build is not there yet. */
  sequence: number | null;
  title: string;
  channel: string;
}

/**
 * Carries out one job: walks the source, reads and stores, reads the facts of what is new, writes the build.
 * A job that was stopped or killed goes on where it was.
 * @throws StoppedError when somebody asked for it, PlainError when the source is not there
 */
export async function runIndex(options: IndexOptions): Promise<IntakeResult> {
  const pool = openPool(options.address, 4);
  const startMs = Date.now();
  const lease = new JobLease(pool, options);
  try {
    const job = await findJob(pool, options.jobId);
    await mendStore(pool, options.folder.store);
    const reading = await planReading(pool, options.folder, job);
    const run: Run = { pool, options, job, reading, lease, startMs };
    for (;;) {
      try {
        const result = await indexOnce(run);
        lease.count(result.files, result.bytes);
        await lease.report();
        return result;
      } catch (error) {
        // Once more, as a difference to the build that came in between: its contents are in the store by now.
        if (!(error instanceof BaseMovedError)) throw error;
      }
    }
  } finally {
    lease.close();
    await pool.end();
  }
}

interface Run {
  pool: Pool;
  options: IndexOptions;
  job: JobRow;
  reading: ReadingPlan;
  lease: JobLease;
  startMs: number;
}

async function indexOnce(run: Run): Promise<IntakeResult> {
  const { pool, options, job, reading, lease, startMs } = run;
  const { jobId } = options;
  const { store } = options.folder;
  const { meter, signal } = lease;
  const { settings } = reading;
  const threads = options.threads ?? availableParallelism();
  const crew = new Crew(options.crewThreads, threads, intakeJob(jobId, reading, null));
  try {
    const newest = await findBase(pool, job.channelId);
    // A build that is there already is gathered whole, and takes its own place again.
    const base = newest?.isUpToDate && job.sequence === null ? newest : null;
    const isSameChoice = isDeepStrictEqual(newest?.settings.choice, settings.choice);
    const isSameSource =
      base?.source === job.source && base.settings.contentRoot === settings.contentRoot && isSameChoice;
    await settleBase(pool, jobId, base?.key ?? '');
    const known = await readSource(run, crew, {
      base: newest,
      isBase: base !== null,
      isSameSource,
      isSameChoice,
    });
    const { leftOutFiles, leftOutBytes } = crew.counts;
    await readFacts(pool, store, jobId, known, crew.threads, signal, (done, total) => {
      if (meter.phase !== 'reading facts') meter.begin('reading facts', total, null);
      lease.count(done, 0);
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
      leftOutFiles,
      leftOutBytes,
      seconds: Math.round(Date.now() - startMs) / 1000,
    };
    await writeBuild(pool, { jobId, buildId: job.buildId, base, isSameSource, result });
    // A crash before this leaves rows that nothing reads.
    await clearStaging(pool, jobId);
    return { ...result, seconds: Math.round(Date.now() - startMs) / 1000 };
  } finally {
    await crew.dismiss();
  }
}

async function findJob(pool: Pool, jobId: number): Promise<JobRow> {
  const job = await selectOne<Omit<JobRow, 'settings'> & { settings: unknown }>(
    pool,
    `SELECT j.build_id AS buildId, b.channel_id AS channelId, c.title_id AS titleId, b.sequence, j.source, t.name AS title,
         c.name AS channel, b.label AS build, b.settings
       FROM jobs j JOIN builds b ON b.id = j.build_id JOIN channels c ON c.id = b.channel_id
       JOIN titles t ON t.id = c.title_id WHERE j.id = ?`,
    [jobId],
  );
  if (!job) throw new NotFoundError(`There is no job ${jobId}.`);
  return { ...job, settings: settingsOf(job.settings) };
}

/** Has the crew read the source. @returns the build before, with what was met of it */
async function readSource(
  { pool, options: { jobId }, job: { channelId }, reading: { kind, place: source }, lease }: Run,
  crew: Crew,
  request: Omit<KnownRequest, 'channelId'>,
): Promise<KnownBuild> {
  const { meter, signal } = lease;
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
    lease.count(skipped.files + files, skipped.bytes + readBytes);
    if (found.bytes > 0 && meter.phase === 'finding files') meter.begin('reading files', null, null);
    meter.totalBytes = found.bytes;
  }, lookMs);
  const aborted = new Promise<never>((_, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
  });
  // Whoever waits for it hears of it; it must not count as unheard before somebody does.
  aborted.catch(() => undefined);
  try {
    signal.throwIfAborted();
    if (kind === 'folder') crew.walk();
    else take(lookAt(source, ''));
    const known = await KnownBuild.load(pool, { channelId, ...request });
    if (request.isBase) await recallMet(pool, jobId, known);
    crew.begin(known.memory);
    await Promise.race([crew.end(), aborted]);
    if (kind === 'file') await refuseUnopened(pool, jobId, known, source);
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
