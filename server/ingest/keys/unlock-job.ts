import { join } from 'node:path';
import * as z from 'zod';
import type { JobReport } from '../../../contract/work.ts';
import { plural } from '../../../core/figures.ts';
import { startReading } from '../../acquire/builds/reading-state.ts';
import { settingsOf } from '../../acquire/builds/settings.ts';
import { FileSource, hashSource } from '../containers/byte-source.ts';
import { unsettled } from '../containers/file-signature.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select, selectOne } from '../../platform/database/rows.ts';
import { findBase } from '../base-build.ts';
import { IntakePool } from '../intake-pool.ts';
import { KnownBuild } from '../known-build.ts';
import type { SourceFile } from '../messages.ts';
import { intakeJob, planReading, type BuildToRead, type ReadingPlan } from '../reading-plan.ts';
import type { IngestServices } from '../index-job.ts';
import { clearStaging, countStaged } from '../staging.ts';
import { lookAt } from '../walk.ts';
import { writeUnlocked } from '../write-build.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { pathDigest } from '../../store/hash.ts';
import { defineJob, type JobContext } from '../../jobs/define-job.ts';

const listedLines = 1000;
const covers = 's.channel_id = ? AND s.first_sequence <= ? AND s.last_sequence >= ?';

interface UnlockedBuild extends BuildToRead {
  sequence: number;
}

interface LockedRow {
  path: string;
  unit: string;
  packedHash: Buffer | null;
}

/**
 * Reads what is locked in a build once more, with the keys of today, and nothing else. Where none of them opens anything,
 * nothing is changed.
 */
export const unlockJob = defineJob<null, IngestServices>({
  kind: 'unlock',
  params: z.null(),
  async run(context) {
    const { pool, folder, store } = context;
    const build = await findBuild(pool, context.jobId);
    const locked = await select<LockedRow>(
      pool,
      `SELECT p.path, u.path AS unit, s.packed_hash AS packedHash FROM problems q JOIN paths p ON p.digest = q.path_digest
         JOIN paths u ON u.digest = q.unit_digest
         LEFT JOIN asset_spans s ON s.path_digest = q.path_digest AND ${covers}
        WHERE q.build_id = ? AND q.locked = 1 AND COALESCE(s.format, '') <> 'sheet-container'`,
      [build.channelId, build.sequence, build.sequence, build.buildId],
    );
    if (locked.length === 0) return { report: { summary: 'Nothing is locked in this build.', lines: [] } };
    await store.mend();
    const plan = await planReading(pool, folder, build);
    if (plan.keys.length === 0) return { report: { summary: 'There is no key to try.', lines: [] } };
    return { report: await unlock(context, build, plan, locked) };
  },
});

async function unlock(
  context: JobContext<null, IngestServices>,
  build: UnlockedBuild,
  plan: ReadingPlan,
  locked: readonly LockedRow[],
): Promise<JobReport> {
  const { pool, jobId, meter, signal, threads, services } = context;
  await clearStaging(pool, jobId);
  const { files, changed } = await findUnits(pool, build, plan, new Set(locked.map(({ unit }) => unit)));
  const intake = new IntakePool(
    services.intakeThreads,
    threads,
    intakeJob(
      jobId,
      plan,
      locked.map(({ path, packedHash }) => ({ path, packedHash })),
      await services.containerSheets(pool, jobId),
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
    const timer = setInterval(() => context.count(intake.counts.files, intake.counts.readBytes), 250);
    const aborted = new Promise<never>((_, reject) => {
      signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
    });
    aborted.catch(() => undefined);
    try {
      signal.throwIfAborted();
      intake.begin(known.memory);
      for (const file of files) intake.add(file);
      await Promise.race([intake.end(), aborted]);
    } finally {
      clearInterval(timer);
    }
    const staged = await countStaged(pool, jobId, { files: 0, containers: 0, bytes: 0 });
    const opened = await countOpened(pool, jobId);
    if (opened === 0) {
      await intake.whenSealed();
      intake.release();
      return report(
        `None of the ${plan.keys.length} keys opens what is locked; nothing was changed.`,
        changed,
        [],
      );
    }
    await services.labelGathered(pool, jobId);
    await intake.whenSealed();
    intake.release();
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
    await startReading(pool, build.buildId);
    return report(
      `${plural(opened, 'asset')} ${opened === 1 ? 'was' : 'were'} unlocked; ${staged.locked === 0 ? 'nothing is locked any more' : `${staged.locked} are still locked`}.`,
      changed,
      still.map(({ path }) => `still locked: ${path}`),
    );
  } finally {
    await clearStaging(pool, jobId);
    await intake.close();
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
  build: UnlockedBuild,
  { place }: ReadingPlan,
  units: ReadonlySet<string>,
): Promise<{ files: SourceFile[]; changed: string[] }> {
  const digests = [...units].map(pathDigest);
  const newest = await findBase(pool, build.channelId);
  const signatures =
    newest?.id === build.buildId
      ? await select<{ digest: Buffer; signature: Buffer }>(
          pool,
          'SELECT path_digest AS digest, signature FROM source_files WHERE channel_id = ? AND path_digest IN (?)',
          [build.channelId, digests],
        )
      : [];
  // Containers that are read as a whole have the hash of their bytes; entries of a ZIP are told one by one.
  const hashes = await select<{ digest: Buffer; packedHash: Buffer }>(
    pool,
    `SELECT s.path_digest AS digest, s.packed_hash AS packedHash FROM asset_spans s
      WHERE ${covers} AND s.path_digest IN (?) AND s.packed_hash IS NOT NULL`,
    [build.channelId, build.sequence, build.sequence, digests],
  );
  const signatureOf = new Map(
    signatures.map(({ digest, signature }) => [digest.toString('hex'), signature.toString('hex')]),
  );
  const hashOf = new Map(hashes.map(({ digest, packedHash }) => [digest.toString('hex'), packedHash]));
  const files: SourceFile[] = [];
  const changed: string[] = [];
  for (const path of units) {
    const digest = pathDigest(path).toString('hex');
    const before = signatureOf.get(digest) ?? unsettled;
    try {
      const file = lookAt(place, path);
      const isKnown = before !== unsettled;
      const isSame = isKnown ? before === file.signature : isStill(place, path, hashOf.get(digest));
      if (isSame) files.push(file);
      else changed.push(path);
    } catch {
      changed.push(path);
    }
  }
  return { files, changed };
}

/** Whether a file has the bytes that it had; taken for granted where nobody knows them. */
function isStill(place: string, path: string, hash: Buffer | undefined): boolean {
  if (!hash) return true;
  const source = new FileSource(path === '' ? place : join(place, path));
  try {
    return hashSource(source).equals(hash);
  } finally {
    source.close();
  }
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

async function findBuild(pool: Pool, jobId: number): Promise<UnlockedBuild> {
  const row = await selectOne<Omit<UnlockedBuild, 'settings'> & { settings: unknown }>(
    pool,
    `SELECT j.build_id AS buildId, b.channel_id AS channelId, c.title_id AS titleId, b.label AS build, b.source, b.settings,
         b.sequence
       FROM jobs j JOIN builds b ON b.id = j.build_id JOIN channels c ON c.id = b.channel_id
      WHERE j.id = ? AND b.sequence IS NOT NULL`,
    [jobId],
  );
  if (!row) throw new NotFoundError('The build that was to be unlocked is not there.');
  return { ...row, settings: settingsOf(row.settings) };
}
