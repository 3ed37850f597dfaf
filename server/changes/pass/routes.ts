import type { SpanDesk } from '../findings/span-desk.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import { streamSSE } from 'hono/streaming';
import { findingsQuerySchema } from '../../../contract/findings.ts';
import {
  passRequestSchema,
  remarkRequestSchema,
  spanSchema,
  undoRequestSchema,
  type PassEvent,
} from '../../../contract/pass.ts';
import { findBuild, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { select, type Queryable } from '../../platform/database/rows.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { changeStates, undoBatch } from './change-states.ts';
import { addRemark, listRemarks } from './remarks.ts';
import { newestRevision, stateColumns, toState } from './states.ts';

const lookMs = 400;
const beatMs = 15_000;
/** More changes at once are not told one by one: whoever looks asks again. */
const mostTold = 300;

/** Going through a span together: marks, who does what, labels, remarks, undo, and what others do meanwhile. */
export function passRoutes({ pool, spans }: { pool: Pool; spans: SpanDesk }): Hono {
  const routes = new Hono();
  const buildsOf = async ({
    channel,
    from,
    to,
  }: {
    channel: number;
    from: string;
    to: string;
  }): Promise<[PlacedBuild, PlacedBuild]> => [
    await findBuild(pool, channel, from),
    await findBuild(pool, channel, to),
  ];

  routes.put('/pass', async (context) => {
    const request = await readBody(context, passRequestSchema);
    const [from, to] = await buildsOf(request);
    let { paths } = request;
    if (!paths) {
      const query = findingsQuerySchema.parse({
        ...request.filter,
        channel: request.channel,
        from: request.from,
        to: request.to,
      });
      paths = await spans.ask('paths', { from, to, query });
    }
    return context.json(await changeStates(pool, from, to, paths, request));
  });

  routes.post('/pass/undo', async (context) => {
    const request = await readBody(context, undoRequestSchema);
    const [from, to] = await buildsOf(request);
    return context.json(await undoBatch(pool, from, to, request.batch, request.by));
  });

  routes.get('/pass/remarks', async (context) => {
    const query = readQuery(context, remarkRequestSchema.pick({ path: true }).extend(spanSchema.shape));
    const [from, to] = await buildsOf(query);
    return context.json(await listRemarks(pool, from, to, query.path));
  });

  routes.post('/pass/remarks', async (context) => {
    const request = await readBody(context, remarkRequestSchema);
    const [from, to] = await buildsOf(request);
    await addRemark(pool, from, to, request.path, request);
    return context.json(await listRemarks(pool, from, to, request.path));
  });

  routes.get('/pass/events', async (context) => {
    const [from, to] = await buildsOf(readQuery(context, spanSchema));
    return streamSSE(context, async (out) => {
      // Whoever reconnects is told what came after the last that it heard.
      let told = Number(context.req.header('last-event-id') ?? (await newestRevision(pool, from, to)));
      let toldAt = Date.now();
      while (!out.aborted && !out.closed) {
        const event = await changesSince(pool, from, to, told);
        if (event)
          await out.writeSSE({ event: 'marks', id: String(event.revision), data: JSON.stringify(event) });
        else if (Date.now() - toldAt > beatMs) await out.writeSSE({ event: 'beat', data: '' });
        if (event || Date.now() - toldAt > beatMs) toldAt = Date.now();
        told = event?.revision ?? told;
        await out.sleep(lookMs);
      }
    });
  });

  return routes;
}

async function changesSince(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
  told: number,
): Promise<PassEvent | null> {
  const batches = await select<{ id: number; by: string; what: string }>(
    database,
    `SELECT id, done_by AS 'by', what FROM mark_batches
      WHERE channel_id = ? AND from_build = ? AND to_build = ? AND id > ? ORDER BY id`,
    [to.channelId, from.id, to.id, told],
  );
  const last = batches.at(-1);
  if (!last) return null;
  const rows = await select<{ path: string } & Parameters<typeof toState>[0]>(
    database,
    `SELECT p.path, ${stateColumns} FROM marks m JOIN paths p ON p.digest = m.path_digest
      WHERE m.channel_id = ? AND m.from_build = ? AND m.to_build = ? AND m.revision > ? LIMIT ?`,
    [to.channelId, from.id, to.id, told, mostTold + 1],
  );
  const states =
    rows.length > mostTold ? null : Object.fromEntries(rows.map((row) => [row.path, toState(row)]));
  return { revision: last.id, states, by: last.by, what: last.what };
}
