import type { SpanClient } from '../findings/span-client.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { spanSchema } from '../../../contract/pass.ts';
import { reportTypes, writeReport } from '../../../core/findings/report.ts';
import { findBuild, findChannel } from '../../acquire/builds/builds.ts';
import { readQuery } from '../../platform/http/read-request.ts';

const reportQuery = z.object({
  title: z.string(),
  channel: z.string(),
  from: z.string(),
  to: z.string(),
  format: z.enum(['md', 'json', 'html']).default('md'),
});

/** What is new in an update, for people to look at and for other programs to read. */
export function newsRoutes({ pool, spans }: { pool: Pool; spans: SpanClient }): Hono {
  const routes = new Hono();
  routes.get('/news', async (context) => {
    const { channel, from, to } = readQuery(context, spanSchema);
    const span = { from: await findBuild(pool, channel, from), to: await findBuild(pool, channel, to) };
    return context.json(await spans.get('news', span));
  });

  routes.get('/report', async (context) => {
    const { title, channel, from, to, format } = readQuery(context, reportQuery);
    const channelId = await findChannel(pool, title, channel);
    const span = { from: await findBuild(pool, channelId, from), to: await findBuild(pool, channelId, to) };
    const found = await spans.get('news', span);
    // What names and texts of a game say is data: nothing in it may run.
    context.header('Content-Security-Policy', "sandbox; default-src 'none'; style-src 'unsafe-inline'");
    return context.body(writeReport(found, format), 200, { 'Content-Type': reportTypes[format] });
  });
  return routes;
}
