import type { SpanClient } from '../findings/span-client.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import { findingsQuerySchema } from '../../../contract/findings.ts';
import {
  passRequestSchema,
  remarkRequestSchema,
  spanSchema,
  undoRequestSchema,
} from '../../../contract/pass.ts';
import { findBuild, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { changeStates, undoBatch } from './change-states.ts';
import { personOf } from '../../people/person.ts';
import { addRemark, listRemarks } from './remarks.ts';

/** Going through a span together: marks, who does what, labels, remarks, undo, and what others do meanwhile. */
export function passRoutes({ pool, spans }: { pool: Pool; spans: SpanClient }): Hono {
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
      paths = await spans.get('paths', { from, to, query, stretch: null });
    }
    return context.json(await changeStates(pool, from, to, paths, { ...request, by: personOf(context) }));
  });

  routes.post('/pass/undo', async (context) => {
    const { batch } = await readBody(context, undoRequestSchema);
    return context.json(await undoBatch(pool, batch, personOf(context)));
  });

  routes.get('/pass/remarks', async (context) => {
    const query = readQuery(context, remarkRequestSchema.pick({ path: true }).extend(spanSchema.shape));
    const [from, to] = await buildsOf(query);
    return context.json(await listRemarks(pool, from, to, query.path));
  });

  routes.post('/pass/remarks', async (context) => {
    const request = await readBody(context, remarkRequestSchema);
    const [from, to] = await buildsOf(request);
    await addRemark(pool, from, to, request.path, { body: request.body, by: personOf(context) });
    return context.json(await listRemarks(pool, from, to, request.path));
  });

  return routes;
}
