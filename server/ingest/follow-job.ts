import { join } from 'node:path';
import * as z from 'zod';
import { intakeRequestSchema } from '../../contract/builds.ts';
import { bytesText, plural } from '../../core/figures.ts';
import type { IngestServices } from './index-job.ts';
import { addUnlocking } from './keys/add-key.ts';
import { loadMasterKey } from '../acquire/keyring/master-key.ts';
import { messageOf } from '../platform/plain-error.ts';
import { createJob } from '../acquire/builds/index-jobs.ts';
import { defineJob, type JobContext } from '../jobs/define-job.ts';
import { StoppedError } from '../jobs/stop.ts';
import { folderName } from '../acquire/ways-in/folder-name.ts';
import { fetchDepotBuild, listDepot, pruneWorkingCopies } from '../acquire/ways-in/depot.ts';
import { copyDevice, lookAtDevice } from '../acquire/ways-in/device.ts';
import { findFollower, noteLook, noteSeen, nothingNew, settledLabels } from '../acquire/ways-in/followers.ts';
import { fetchKey, findLockedBuilds } from '../acquire/ways-in/key-post.ts';

type FollowerRow = Awaited<ReturnType<typeof findFollower>>;

/** Working copies of the newest builds are kept: a key may come, or somebody may want to index them again. */
const keptCopies = 3;

type Context = JobContext<{ followerId: number }, Pick<IngestServices, 'onKey'>>;

interface Look {
  context: Context;
  follower: FollowerRow;
  /** Where the working copies lie. */
  place: string;
}

/** One look at what a channel follows: new builds are fetched and indexed, keys that came unlock what they open. */
export const followJob = defineJob({
  kind: 'follow',
  params: z.object({ followerId: z.number() }),
  async run(context: Context) {
    const { pool, params, folder } = context;
    const { followerId } = params;
    try {
      const follower = await findFollower(pool, followerId);
      const look: Look = { context, follower, place: join(folder.working, `follower-${follower.id}`) };
      const lines = await (follower.kind === 'depot' ? followDepot(look) : followDevice(look));
      lines.push(...(await fetchKeys(look)));
      const [first = nothingNew] = lines;
      const summary = lines.length > 1 ? `${first} (and ${lines.length - 1} more)` : first;
      await noteLook(pool, followerId, summary, false);
      return { report: { summary: first, lines: lines.slice(1) } };
    } catch (error) {
      if (!(error instanceof StoppedError)) await noteLook(pool, followerId, messageOf(error), true);
      throw error;
    }
  },
});

async function followDepot(look: Look): Promise<string[]> {
  const { context, follower, place } = look;
  const { pool, meter, signal } = context;
  const lines: string[] = [];
  const settled = await settledLabels(pool, follower);
  const builds = await listDepot(follower.url, signal);
  for (const build of builds) {
    if (settled.has(build.label)) continue;
    meter.begin('fetching', null, null);
    const { folder, fetched, kept } = await fetchDepotBuild(
      { store: context.store, place },
      follower.url,
      build,
      signal,
      (done, total) => {
        meter.totalFiles = total.files;
        meter.totalBytes = total.bytes;
        context.count(done.files, done.bytes);
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
  const { context, follower, place } = look;
  const { pool, meter, signal } = context;
  const device = await lookAtDevice(follower.url, signal);
  if ((await settledLabels(pool, follower)).has(device.label)) return [];
  meter.begin('fetching', null, device.size);
  const { image, bad } = await copyDevice(
    join(place, folderName(device.label)),
    follower.url,
    device,
    signal,
    (bytes) => {
      context.count(0, bytes);
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
  { context, follower }: Look,
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
  const { pool, owner, folder } = context;
  await context.runWithin(await createJob(pool, request, owner, folder.place));
  await noteSeen(pool, follower.id, label);
}

/** Asks the key post for the keys of the builds that hold something locked. */
async function fetchKeys({ context, follower }: Look): Promise<string[]> {
  const { pool, folder, owner, signal } = context;
  const lines: string[] = [];
  if (follower.keyPostUrl === '') return lines;
  for (const { id, label } of await findLockedBuilds(pool, follower.channelId)) {
    const { title, channel, keyPostUrl: url } = follower;
    const master = loadMasterKey(folder.root);
    if (!(await fetchKey(pool, master, { url, title, build: label }, signal))) continue;
    await context.services.onKey(pool, title);
    const jobId = await addUnlocking(pool, id, `${title}, ${channel}, build ${label}`, owner);
    const { report } = await context.runWithin(jobId);
    lines.push(`The key of build ${label} came. ${report?.summary ?? ''}`);
  }
  return lines;
}
