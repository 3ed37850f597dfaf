import { Hono } from 'hono';
import { z } from 'zod';
import { intakeRequestSchema } from '../../contract/builds.ts';
import { readBody, readQuery } from '../http/read-request.ts';
import type { ServerContext } from '../http/server-context.ts';
import { checkSource, normaliseSource } from '../intake/source-path.ts';
import { createJob, findJob } from '../work/queue.ts';
import { findBuild, listProblems, listTitles } from './builds.ts';

export function buildRoutes({ pool, runner }: ServerContext): Hono {
  const routes = new Hono();
  routes.get('/titles', async (context) => context.json(await listTitles(pool)));
  routes.get('/problems', async (context) => {
    const { channel, build } = readQuery(
      context,
      z.object({ channel: z.coerce.number().int(), build: z.string() }),
    );
    return context.json(await listProblems(pool, (await findBuild(pool, channel, build)).id));
  });
  routes.post('/intake', async (context) => {
    const request = await readBody(context, intakeRequestSchema);
    const source = normaliseSource(request.source);
    checkSource(source);
    const jobId = await createJob(pool, { ...request, source }, null);
    runner.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  return routes;
}
