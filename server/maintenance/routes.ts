import { isAbsolute, resolve } from 'node:path';
import { backupRequestSchema } from '../../contract/backups.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import { PlainError } from '../platform/plain-error.ts';
import { readBody, readNumber } from '../platform/http/read-request.ts';
import type { JobQueue } from '../jobs/queue.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Hono } from 'hono';
import { findBuildById, findTitleNamed } from '../acquire/builds/builds.ts';
import { addDeed } from '../people/history/audit.ts';
import { personOf } from '../people/person.ts';
import { sourcesOfBuilds } from '../hauls/begin-haul.ts';
import { refuseWithin } from '../hauls/target-folder.ts';
import { findJob } from '../jobs/jobs.ts';
import { addBackup, addCheck, addRemoval } from './jobs.ts';
import { measureSizes } from './sizes.ts';

export function housekeepingRoutes({
  pool,
  queue,
  folder: data,
}: {
  pool: Pool;
  queue: JobQueue;
  folder: DataFolder;
}): Hono {
  const routes = new Hono();
  routes.get('/sizes', async (context) => context.json(await measureSizes(pool)));
  routes.post('/check', async (context) => {
    const jobId = await addCheck(pool);
    queue.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  routes.post('/backup', async (context) => {
    const { folder } = await readBody(context, backupRequestSchema);
    if (!isAbsolute(folder)) throw new PlainError('The folder is named by its whole path.');
    const out = resolve(folder);
    refuseWithin(out, [data.root, ...(await sourcesOfBuilds(pool))]);
    const job = await addBackup(pool, out, data.place);
    queue.look();
    return context.json({ job }, 201);
  });
  routes.delete('/builds/:id', async (context) => {
    const build = await findBuildById(pool, readNumber(context, 'id'));
    const jobId = await addRemoval(pool, build);
    await addDeed(
      pool,
      await findTitleNamed(pool, build.title),
      personOf(context),
      `removed build ${build.label} of ${build.channel}`,
    );
    queue.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  return routes;
}
