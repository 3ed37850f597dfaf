import { join } from 'node:path';
import { z } from 'zod';
import { intakeRequestSchema } from '../../../contract/builds.ts';
import type { JobReport } from '../../../contract/work.ts';
import { bytesText, plural } from '../../../core/figures.ts';
import { openPool, type Pool } from '../../platform/database/pool.ts';
import { parseColumn, selectOne } from '../../platform/database/rows.ts';
import { runIndex, type IndexOptions } from '../../ingest/run-index.ts';
import { addUnlocking } from '../keyring/add-key.ts';
import { loadMasterKey } from '../keyring/master-key.ts';
import { runUnlock } from '../keyring/run-unlock.ts';
import { messageOf } from '../../platform/plain-error.ts';
import { finishWith } from '../../jobs/finish-with.ts';
import { createJob } from '../../ingest/index-jobs.ts';
import { JobLease } from '../../jobs/job-lease.ts';
import { StoppedError } from '../../jobs/stop.ts';
import { fetchDepotBuild, listDepot, pruneWorkingCopies } from './depot.ts';
import { copyDevice, lookAtDevice } from './device.ts';
import { findFollower, noteLook, noteSeen, nothingNew, settledLabels } from './followers.ts';
import { fetchKey, findLockedBuilds } from './key-post.ts';

type FollowerRow = Awaited<ReturnType<typeof findFollower>>;

/** Working copies of the newest builds are kept: a key may come, or somebody may want to index them again. */
const keptCopies = 3;

interface Look {
  pool: Pool;
  options: IndexOptions;
  lease: JobLease;
  follower: FollowerRow;
  /** Where the working copies lie. */
  place: string;
}

/** One look at what a channel follows: new builds are fetched and indexed, keys that came unlock what they open. */
export async function runFollow(options: IndexOptions): Promise<JobReport> {
  const pool = openPool(options.address, 4);
  const lease = new JobLease(pool, options);
  let followerId = 0;
  try {
    const job = await selectOne<{ params: unknown }>(pool, 'SELECT params FROM jobs WHERE id = ?', [
      options.jobId,
    ]);
    ({ followerId } = z.object({ followerId: z.number() }).parse(parseColumn(job?.params)));
    const follower = await findFollower(pool, followerId);
    const place = join(options.folder.working, `follower-${follower.id}`);
    const look: Look = { pool, options, lease, follower, place };
    const lines = await (follower.kind === 'depot' ? followDepot(look) : followDevice(look));
    lines.push(...(await fetchKeys(look)));
    const [first = nothingNew] = lines;
    await noteLook(
      pool,
      followerId,
      lines.length > 1 ? `${first} (and ${lines.length - 1} more)` : first,
      false,
    );
    return { summary: first, lines: lines.slice(1) };
  } catch (error) {
    if (!(error instanceof StoppedError) && followerId > 0)
      await noteLook(pool, followerId, messageOf(error), true);
    throw error;
  } finally {
    lease.close();
    await pool.end();
  }
}

async function followDepot(look: Look): Promise<string[]> {
  const { pool, options, lease, follower, place } = look;
  const lines: string[] = [];
  const settled = await settledLabels(pool, follower);
  const builds = await listDepot(follower.url, lease.signal);
  for (const build of builds) {
    if (settled.has(build.label)) continue;
    lease.meter.begin('fetching', null, null);
    const { folder, fetched, kept } = await fetchDepotBuild(
      { pool, store: options.folder.store, place },
      follower.url,
      build,
      lease.signal,
      (done, total) => {
        lease.meter.totalFiles = total.files;
        lease.meter.totalBytes = total.bytes;
        lease.count(done.files, done.bytes);
      },
    );
    await indexBuild(look, folder, build);
    lines.push(
      `Build ${build.label} is in: ${plural(fetched.files, 'file')} fetched, ${bytesText(fetched.bytes)}; ${plural(kept.files, 'file')} were here already, ${bytesText(kept.bytes)}.`,
    );
  }
  const locked = (await findLockedBuilds(pool, follower.channelId)).map(({ label }) => label);
  const newest = builds.slice(-keptCopies).map(({ label }) => label);
  pruneWorkingCopies(place, new Set([...locked, ...newest]));
  return lines;
}

async function followDevice(look: Look): Promise<string[]> {
  const { pool, lease, follower, place } = look;
  const device = await lookAtDevice(follower.url, lease.signal);
  if ((await settledLabels(pool, follower)).has(device.label)) return [];
  lease.meter.begin('fetching', null, device.size);
  const { image, bad } = await copyDevice(
    join(place, encodeURIComponent(device.label)),
    follower.url,
    device,
    lease.signal,
    (bytes) => {
      lease.count(0, bytes);
    },
  );
  await indexBuild(look, image, device);
  const lost = bad.reduce((sum, [start, end]) => sum + end - start, 0);
  return [
    `Build ${device.label} is in, ${bytesText(device.size)} copied from the device${lost > 0 ? `; ${bytesText(lost)} of it stayed unreadable` : ''}.`,
    ...bad.map(([start, end]) => `unreadable: bytes ${start} to ${end - 1}`),
  ];
}

/** Indexes a fetched build, by a job of its own that this process holds. */
async function indexBuild(
  { pool, options, lease, follower }: Look,
  source: string,
  { label, releasedAt, platform }: { label: string; releasedAt: string; platform?: string },
): Promise<void> {
  const request = intakeRequestSchema.parse({
    source,
    title: follower.title,
    channel: follower.channel,
    build: label,
    releasedAt,
    settings: platform ? { platform } : {},
  });
  const jobId = await createJob(pool, request, options.owner);
  await finishWith(pool, jobId, async () => ({
    result: await runIndex({ ...options, jobId, onProgress: undefined, signal: lease.signal }),
    report: null,
  }));
  await noteSeen(pool, follower.id, label);
}

/** Asks the key post for the keys of the builds that hold something locked. */
async function fetchKeys({ pool, options, lease, follower }: Look): Promise<string[]> {
  const lines: string[] = [];
  if (follower.keyPostUrl === '') return lines;
  for (const { id, label } of await findLockedBuilds(pool, follower.channelId)) {
    const { title, channel, keyPostUrl: url } = follower;
    const master = loadMasterKey(options.folder.root);
    if (!(await fetchKey(pool, master, { url, title, build: label }, lease.signal))) continue;
    const jobId = await addUnlocking(pool, id, `${title}, ${channel}, build ${label}`, options.owner);
    const { report } = await finishWith(pool, jobId, async () => ({
      result: null,
      report: await runUnlock({ ...options, jobId, onProgress: undefined, signal: lease.signal }),
    }));
    lines.push(`The key of build ${label} came. ${report?.summary ?? ''}`);
  }
  return lines;
}
