import type { JobQueue } from '../jobs/queue.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { buildNamesSchema, intakeRequestSchema, type IntakeRequest } from '../../contract/builds.ts';
import { lookRequestSchema } from '../../contract/look.ts';
import { readBody, readQuery, readNumber } from '../platform/http/read-request.ts';
import { lookInThread } from './source-requests.ts';
import { checkSource, normaliseSource } from './source-path.ts';
import { createJob } from '../acquire/builds/index-jobs.ts';
import { findJob } from '../jobs/jobs.ts';
import { isRead, startReading } from '../acquire/builds/reading-state.ts';
import { proposeNext } from '../acquire/builds/settings.ts';
import { findBuild, findChannel, listProblems, listTitles } from '../acquire/builds/builds.ts';

/** The source as it was meant, and there. @throws PlainError */
function withSource(request: IntakeRequest): IntakeRequest {
  if (request.source === undefined) return request;
  const source = normaliseSource(request.source);
  checkSource(source);
  return { ...request, source };
}

export function buildRoutes({
  pool,
  folder,
  queue,
}: {
  pool: Pool;
  folder: DataFolder;
  queue: JobQueue;
}): Hono {
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
  // Facts of a build that are left to be read; the command line waits for them.
  routes.post('/reading', async (context) => {
    const { title, channel, build } = await readBody(context, buildNamesSchema);
    const placed = await findBuild(pool, await findChannel(pool, title, channel), build);
    const job = isRead(placed) ? null : await startReading(pool, placed.id);
    queue.look();
    return context.json({ job: job === null ? null : await findJob(pool, job) });
  });
  routes.post('/intake', async (context) => {
    const request = await readBody(context, intakeRequestSchema);
    const jobId = await createJob(pool, withSource(request), null, folder.place);
    queue.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  return routes;
}
