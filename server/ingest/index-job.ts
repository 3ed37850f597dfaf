import { isDeepStrictEqual } from 'node:util';
import * as z from 'zod';
import type { IntakeResult } from '../../contract/builds.ts';
import { settingsOf } from '../acquire/builds/settings.ts';
import { startReading } from '../acquire/builds/reading-state.ts';
import { role } from '../acquire/builds/spans.ts';
import type { Pool } from '../platform/database/pool.ts';
import { selectOne } from '../platform/database/rows.ts';
import { NotFoundError, PlainError } from '../platform/plain-error.ts';
import { pathDigest } from '../store/hash.ts';
import { defineJob, type JobContext } from '../jobs/define-job.ts';
import { findBase } from './base-build.ts';
import { IntakePool } from './intake-pool.ts';
import type { IntakeThreads } from './intake-threads.ts';
import { intakeJob, planReading, type BuildToRead, type ReadingPlan } from './reading-plan.ts';
import type { OnKey } from './keys/routes.ts';
import { KnownBuild, type KnownRequest } from './known-build.ts';
import type { SourceFile } from './messages.ts';
import { clearStaging, countStaged, prepareResume, recallMet, settleBase, stageGone } from './staging.ts';
import { lookAt } from './walk.ts';
import { BaseMovedError, writeBuild } from './write-build.ts';

/** What bringing builds in needs of its process. */
export interface IngestServices {
  intakeThreads: IntakeThreads;
  /** Says of the files that a job gathered which of them a team describes by recipes. */
  labelGathered(pool: Pool, jobId: number): Promise<void>;
  /** Texts of the sheets of a job’s title that describe containers. */
  containerSheets(pool: Pool, jobId: number): Promise<string[]>;
  onKey: OnKey;
}

const lookMs = 250;

interface JobRow extends BuildToRead {
  /** Null where the build is not there yet. */
  sequence: number | null;
  title: string;
  channel: string;
}

type Context = JobContext<null, IngestServices>;

interface Run {
  context: Context;
  job: JobRow;
  reading: ReadingPlan;
  startMs: number;
}

/**
 * Has a build arrive: walks the source, opens containers, hashes, stores and records what is there. What it all is, is read
 * by the job that comes after. A job that was stopped or killed goes on where it was.
 */
export const indexJob = defineJob<null, IngestServices>({
  kind: 'index',
  params: z.null(),
  async run(context) {
    const { pool, folder, store } = context;
    const startMs = Date.now();
    const job = await findJob(pool, context.jobId);
    await store.mend();
    const reading = await planReading(pool, folder, job);
    for (;;) {
      try {
        const result = await indexOnce({ context, job, reading, startMs });
        context.count(result.files, result.bytes);
        await startReading(pool, job.buildId);
        return { result };
      } catch (error) {
        // Once more, as a difference to the build that came in between: its contents are in the store by now.
        if (!(error instanceof BaseMovedError)) throw error;
      }
    }
  },
});

async function indexOnce(run: Run): Promise<IntakeResult> {
  const { context, job, reading, startMs } = run;
  const { pool, jobId, meter, signal, threads, services } = context;
  const { settings } = reading;
  const described = await services.containerSheets(pool, jobId);
  const intake = new IntakePool(services.intakeThreads, threads, intakeJob(jobId, reading, null, described));
  try {
    const newest = await findBase(pool, job.channelId);
    // A build that is there already is gathered whole, and takes its own place again.
    const base = newest?.isUpToDate && job.sequence === null ? newest : null;
    const isSameChoice = isDeepStrictEqual(newest?.settings.choice, settings.choice);
    const isSameSource =
      base?.source === job.source && base.settings.contentRoot === settings.contentRoot && isSameChoice;
    await settleBase(pool, jobId, base?.key ?? '');
    const known = await readSource(run, intake, {
      base: newest,
      isBase: base !== null,
      isSameSource,
      isSameChoice,
    });
    const { leftOutFiles, leftOutBytes } = intake.counts;
    await services.labelGathered(pool, jobId);
    await intake.whenSealed();
    intake.release();
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
    await intake.close();
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

/** Has the pool read the source. @returns the build before, with what was met of it */
async function readSource(
  { context, job: { channelId }, reading: { kind, place: source } }: Run,
  intake: IntakePool,
  request: Omit<KnownRequest, 'channelId'>,
): Promise<KnownBuild> {
  const { pool, jobId, meter, signal } = context;
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
      intake.add(file);
    }
  };
  intake.onFound = (files) => files.forEach(take);
  const timer = setInterval(() => {
    const { files, readBytes } = intake.counts;
    context.count(skipped.files + files, skipped.bytes + readBytes);
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
    if (kind === 'folder') intake.walk();
    else take(lookAt(source, ''));
    const known = await KnownBuild.load(pool, { channelId, ...request });
    if (request.isBase) await recallMet(pool, jobId, known);
    intake.begin(known.memory);
    await Promise.race([intake.end(), aborted]);
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
