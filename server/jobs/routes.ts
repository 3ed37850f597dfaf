import type { JobQueue } from './queue.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { readBody, readNumber } from '../platform/http/read-request.ts';
import { findJob, listJobs } from './jobs.ts';
import { haltJob, resumeJob, setPriority } from './queue.ts';

export function workRoutes({ pool, queue }: { pool: Pool; queue: JobQueue }): Hono {
  const routes = new Hono();
  routes.get('/work', async (context) => context.json(await listJobs(pool)));
  routes.get('/work/:id{[0-9]+}', async (context) =>
    context.json(await findJob(pool, readNumber(context, 'id'))),
  );
  for (const how of ['stop', 'pause'] as const) {
    routes.post(`/work/:id/${how}`, async (context) => {
      const id = readNumber(context, 'id');
      await haltJob(pool, id, how);
      return context.json(await findJob(pool, id));
    });
  }
  routes.post('/work/:id/priority', async (context) => {
    const id = readNumber(context, 'id');
    const { priority } = await readBody(context, z.object({ priority: z.number().int().min(-9).max(9) }));
    await setPriority(pool, id, priority);
    return context.json(await findJob(pool, id));
  });
  routes.post('/work/:id/resume', async (context) => {
    const id = readNumber(context, 'id');
    await resumeJob(pool, id);
    queue.look();
    return context.json(await findJob(pool, id));
  });
  return routes;
}
