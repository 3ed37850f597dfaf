import { availableParallelism } from 'node:os';
import type { JobReport } from '../../contract/work.ts';
import { plural } from '../../core/findings/evidence.ts';
import { settingsOf } from '../builds/settings.ts';
import { unsettled } from '../containers/file-signature.ts';
import { openPool, type Pool } from '../database/pool.ts';
import { select, selectOne } from '../database/rows.ts';
import { findBase } from '../intake/base-build.ts';
import { Crew } from '../intake/crew.ts';
import { KnownBuild } from '../intake/known-build.ts';
import type { SourceFile } from '../intake/messages.ts';
import { intakeJob, planReading, type BuildToRead, type ReadingPlan } from '../intake/reading-plan.ts';
import type { IndexOptions } from '../intake/run-index.ts';
import { clearStaging, countStaged } from '../intake/staging.ts';
import { lookAt } from '../intake/walk.ts';
import { writeUnlocked } from '../intake/write-build.ts';
import { NotFoundError } from '../plain-error.ts';
import { readFacts } from '../readers/read-facts.ts';
import { pathDigest } from '../store/hash.ts';
import { mendStore } from '../store/mend.ts';
import { JobLease } from '../work/job-lease.ts';

const listedLines = 1000;

interface LockedRow {
  path: string;
  unit: string;
}

/**
 * Reads what is locked in a build once more, with the keys of today, and nothing else. Where none of them opens anything,
 * nothing is changed.
 */
export async function runUnlock(options: IndexOptions): Promise<JobReport> {
  const pool = openPool(options.address, 4);
  const lease = new JobLease(pool, options);
  try {
    const build = await findBuild(pool, options.jobId);
    const locked = await select<LockedRow>(
      pool,
      `SELECT p.path, u.path AS unit FROM problems q JOIN paths p ON p.digest = q.path_digest
         JOIN paths u ON u.digest = q.unit_digest WHERE q.build_id = ? AND q.locked = 1`,
      [build.buildId],
    );
    if (locked.length === 0) return { summary: 'Nothing is locked in this build.', lines: [] };
    await mendStore(pool, options.folder.store);
    const plan = await planReading(pool, options.folder, build);
    if (plan.keys.length === 0) return { summary: 'There is no key to try.', lines: [] };
    return await unlock(pool, options, lease, build, plan, locked);
  } finally {
    lease.close();
    await pool.end();
  }
}

async function unlock(
  pool: Pool,
  options: IndexOptions,
  lease: JobLease,
  build: BuildToRead,
  plan: ReadingPlan,
  locked: readonly LockedRow[],
): Promise<JobReport> {
  const { jobId } = options;
  const { store } = options.folder;
  const { meter, signal } = lease;
  const threads = options.threads ?? availableParallelism();
  await clearStaging(pool, jobId);
  const { files, changed } = await findUnits(pool, build, plan, new Set(locked.map(({ unit }) => unit)));
  const crew = new Crew(
    options.crewThreads,
    threads,
    intakeJob(
      jobId,
      plan,
      locked.map(({ path }) => path),
    ),
  );
  try {
    const known = await KnownBuild.load(pool, {
      channelId: build.channelId,
      base: await findBase(pool, build.channelId),
      isBase: false,
      isSameSource: false,
      isSameChoice: false,
    });
    meter.begin(
      'reading files',
      files.length,
      files.reduce((sum, { size }) => sum + size, 0),
    );
    const timer = setInterval(() => lease.count(crew.counts.files, crew.counts.readBytes), 250);
    const aborted = new Promise<never>((_, reject) => {
      signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
    });
    aborted.catch(() => undefined);
    try {
      signal.throwIfAborted();
      crew.begin(known.memory);
      for (const file of files) crew.add(file);
      await Promise.race([crew.end(), aborted]);
    } finally {
      clearInterval(timer);
    }
    const staged = await countStaged(pool, jobId, { files: 0, containers: 0, bytes: 0 });
    const opened = await countOpened(pool, jobId);
    if (opened === 0) {
      await crew.whenSealed();
      crew.release();
      return report(
        `None of the ${plan.keys.length} keys opens what is locked; nothing was changed.`,
        changed,
        [],
      );
    }
    await readFacts(pool, store, jobId, known, crew.threads, signal, (done, total) => {
      if (meter.phase !== 'reading facts') meter.begin('reading facts', total, null);
      lease.count(done, 0);
    });
    await crew.whenSealed();
    crew.release();
    signal.throwIfAborted();
    const still = await select<{ path: string }>(
      pool,
      `SELECT p.path FROM intake_problems q JOIN paths p ON p.digest = q.path_digest WHERE q.job_id = ? AND q.locked = 1
        ORDER BY p.path LIMIT ?`,
      [jobId, listedLines],
    );
    await writeUnlocked(pool, {
      jobId,
      buildId: build.buildId,
      units: files.map(({ path }) => pathDigest(path)),
    });
    return report(
      `${plural(opened, 'asset')} ${opened === 1 ? 'was' : 'were'} unlocked; ${staged.locked === 0 ? 'nothing is locked any more' : `${staged.locked} are still locked`}.`,
      changed,
      still.map(({ path }) => `still locked: ${path}`),
    );
  } finally {
    await clearStaging(pool, jobId);
    await crew.dismiss();
  }
}

function report(summary: string, changed: readonly string[], lines: readonly string[]): JobReport {
  return {
    summary,
    lines: [
      ...changed.map((path) => `changed since the build was indexed, and left alone: ${path}`),
      ...lines,
    ].slice(0, listedLines),
  };
}

/** The source's files to read again; those that are not what they were are left alone. */
async function findUnits(
  pool: Pool,
  build: BuildToRead,
  { place }: ReadingPlan,
  units: ReadonlySet<string>,
): Promise<{ files: SourceFile[]; changed: string[] }> {
  const newest = await findBase(pool, build.channelId);
  const signatures =
    newest?.id === build.buildId
      ? await select<{ digest: Buffer; signature: Buffer }>(
          pool,
          'SELECT path_digest AS digest, signature FROM source_files WHERE channel_id = ? AND path_digest IN (?)',
          [build.channelId, [...units].map(pathDigest)],
        )
      : [];
  const known = new Map(
    signatures.map(({ digest, signature }) => [digest.toString('hex'), signature.toString('hex')]),
  );
  const files: SourceFile[] = [];
  const changed: string[] = [];
  for (const path of units) {
    const before = known.get(pathDigest(path).toString('hex')) ?? unsettled;
    try {
      const file = lookAt(place, path);
      if (before !== unsettled && before !== file.signature) changed.push(path);
      else files.push(file);
    } catch {
      changed.push(path);
    }
  }
  return { files, changed };
}

/** Assets that came out of what was locked. */
async function countOpened(pool: Pool, jobId: number): Promise<number> {
  const row = await selectOne<{ count: number }>(
    pool,
    'SELECT COUNT(*) AS count FROM intake_assets WHERE job_id = ? AND role = 0 AND hash IS NOT NULL',
    [jobId],
  );
  return row?.count ?? 0;
}

async function findBuild(pool: Pool, jobId: number): Promise<BuildToRead> {
  const row = await selectOne<Omit<BuildToRead, 'settings'> & { settings: unknown }>(
    pool,
    `SELECT j.build_id AS buildId, b.channel_id AS channelId, c.title_id AS titleId, b.label AS build, b.source, b.settings
       FROM jobs j JOIN builds b ON b.id = j.build_id JOIN channels c ON c.id = b.channel_id
      WHERE j.id = ? AND b.sequence IS NOT NULL`,
    [jobId],
  );
  if (!row) throw new NotFoundError('The build that was to be unlocked is not there.');
  return { ...row, settings: settingsOf(row.settings) };
}
