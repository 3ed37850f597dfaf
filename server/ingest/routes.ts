import type { JobQueue } from '../jobs/queue.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { intakeRequestSchema, type IntakeRequest } from '../../contract/builds.ts';
import { lookRequestSchema } from '../../contract/look.ts';
import { readBody, readQuery, readNumber } from '../platform/http/read-request.ts';
import { lookInThread } from './source-requests.ts';
import { checkSource, normaliseSource } from './source-path.ts';
import { createJob } from '../acquire/builds/index-jobs.ts';
import { findJob } from '../jobs/jobs.ts';
import { proposeNext } from '../acquire/builds/settings.ts';
import { findBuild, listProblems, listTitles } from '../acquire/builds/builds.ts';

/** The source as it was meant, and there. @throws PlainError */
function withSource(request: IntakeRequest): IntakeRequest {
  if (request.source === undefined) return request;
  const source = normaliseSource(request.source);
  checkSource(source);
  return { ...request, source };
}

export function buildRoutes({ pool, queue }: { pool: Pool; queue: JobQueue }): Hono {
  const routes = new Hono();
  routes.get('/titles', async (context) => context.json(await listTitles(pool)));
  routes.get('/problems', async (context) => {
    const { channel, build } = readQuery(
      context,
      z.object({ channel: z.coerce.number().int(), build: z.string() }),
    );
    return context.json(await listProblems(pool, (await findBuild(pool, channel, build)).id));
  });
  routes.get('/channels/:id/proposal', async (context) =>
    context.json(await proposeNext(pool, readNumber(context, 'id'))),
  );
  routes.post('/look', async (context) => {
    const { source } = await readBody(context, lookRequestSchema);
    return context.json(await lookInThread(normaliseSource(source)));
  });
  routes.post('/intake', async (context) => {
    const request = await readBody(context, intakeRequestSchema);
    const jobId = await createJob(pool, withSource(request), null);
    queue.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  return routes;
}
