import type { JobQueue } from '../../jobs/queue.ts';
import type { SpanClient } from './span-client.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import { stream } from 'hono/streaming';
import * as z from 'zod';
import {
  findingPathsQuerySchema,
  findingsQuerySchema,
  pairRequestSchema,
} from '../../../contract/findings.ts';
import { spanSchema } from '../../../contract/pass.ts';
import { findBuild, findChannel } from '../../acquire/builds/builds.ts';
import { personOf } from '../../people/person.ts';
import { decidePair } from '../evidence/likeness-pairs.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { findJob } from '../../jobs/jobs.ts';
import { startEvidence } from './recent-spans.ts';

const diffQuery = z.object({
  title: z.string(),
  channel: z.string(),
  from: z.string(),
  to: z.string(),
  evidence: z.enum(['0', '1']).default('0'),
});

export function findingRoutes({
  pool,
  spans,
  queue,
}: {
  pool: Pool;
  spans: SpanClient;
  queue: JobQueue;
}): Hono {
  const routes = new Hono();

  routes.get('/diff', async (context) => {
    const { title, channel, from, to, evidence } = readQuery(context, diffQuery);
    const channelId = await findChannel(pool, title, channel);
    const [older, newer] = await Promise.all([
      findBuild(pool, channelId, from),
      findBuild(pool, channelId, to),
    ]);
    const pieces = await spans.get('lines', { from: older, to: newer, withEvidence: evidence === '1' });
    context.header('Content-Type', 'application/x-ndjson');
    return stream(context, async (out) => {
      for (const piece of pieces) await out.write(piece);
    });
  });

  routes.get('/findings', async (context) => {
    const query = readQuery(context, findingsQuerySchema);
    const from = await findBuild(pool, query.channel, query.from);
    const to = await findBuild(pool, query.channel, query.to);
    return context.json(await spans.get('page', { from, to, query }));
  });

  routes.get('/findings/paths', async (context) => {
    const { offset, limit, ...query } = readQuery(context, findingPathsQuerySchema);
    const from = await findBuild(pool, query.channel, query.from);
    const to = await findBuild(pool, query.channel, query.to);
    const paths = await spans.get('paths', {
      from,
      to,
      query: { ...query, offset: 0, limit: 1 },
      stretch: { offset, limit },
    });
    return context.json({ paths });
  });

  routes.post('/findings/evidence', async (context) => {
    const { channel, from, to } = await readBody(context, spanSchema);
    const job = await startEvidence(
      pool,
      await findBuild(pool, channel, from),
      await findBuild(pool, channel, to),
    );
    queue.look();
    return context.json({ job });
  });

  // The same for the command line, which knows titles and channels by name, and follows the job.
  routes.post('/evidence', async (context) => {
    const { title, channel, from, to } = await readBody(context, diffQuery);
    const channelId = await findChannel(pool, title, channel);
    const job = await startEvidence(
      pool,
      await findBuild(pool, channelId, from),
      await findBuild(pool, channelId, to),
    );
    queue.look();
    return context.json({ job: job === null ? null : await findJob(pool, job) });
  });

  routes.put('/findings/pairs', async (context) => {
    const { channel, from, to, ...said } = await readBody(context, pairRequestSchema);
    await decidePair(pool, await findBuild(pool, channel, from), await findBuild(pool, channel, to), {
      ...said,
      by: personOf(context),
    });
    return context.json({ said: said.said });
  });

  return routes;
}
