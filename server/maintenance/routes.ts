import { readNumber } from '../platform/http/read-request.ts';
import type { JobQueue } from '../jobs/queue.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Hono } from 'hono';
import { findBuildById } from '../acquire/builds/builds.ts';
import { findJob } from '../jobs/jobs.ts';
import { addCheck, addRemoval } from './jobs.ts';
import { measureSizes } from './sizes.ts';

export function housekeepingRoutes({ pool, queue }: { pool: Pool; queue: JobQueue }): Hono {
  const routes = new Hono();
  routes.get('/sizes', async (context) => context.json(await measureSizes(pool)));
  routes.post('/check', async (context) => {
    const jobId = await addCheck(pool);
    queue.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  routes.delete('/builds/:id', async (context) => {
    const build = await findBuildById(pool, readNumber(context, 'id'));
    const jobId = await addRemoval(pool, build);
    queue.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  return routes;
}
