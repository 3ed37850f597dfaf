import { Hono } from 'hono';
import * as z from 'zod';
import { arrangementSchema } from '../../../contract/arrangements.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import { changeItems } from '../../people/history/kept-items.ts';
import { authorOf } from '../../people/person.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { arrangementKey, keptArrangements, listArrangements } from './arrangements.ts';

const channel = z.coerce.number().int();
const nameOf = arrangementSchema.pick({ path: true, name: true });

export function arrangementRoutes({ pool }: { pool: Pool }): Hono {
  const routes = new Hono();
  routes.get('/arrangements', async (context) => {
    const { channel: of, path } = readQuery(context, z.object({ channel, path: z.string() }));
    return context.json(await listArrangements(pool, await findTitleOf(pool, of), path));
  });
  routes.put('/arrangements', async (context) => {
    const { channel: of, ...arrangement } = await readBody(context, arrangementSchema.extend({ channel }));
    const scope = { titleId: await findTitleOf(pool, of), channelId: null };
    await changeItems(
      pool,
      keptArrangements,
      scope,
      new Map([[arrangementKey(arrangement), JSON.stringify(arrangement.setUp)]]),
      `kept the arrangement “${arrangement.name}” of ${arrangement.path}`,
      authorOf(context),
    );
    return context.json(await listArrangements(pool, scope.titleId, arrangement.path));
  });
  routes.post('/arrangements/drop', async (context) => {
    const { channel: of, ...dropped } = await readBody(context, nameOf.extend({ channel }));
    const scope = { titleId: await findTitleOf(pool, of), channelId: null };
    await changeItems(
      pool,
      keptArrangements,
      scope,
      new Map([[arrangementKey(dropped), null]]),
      `took the arrangement “${dropped.name}” of ${dropped.path} away`,
      authorOf(context),
    );
    return context.json(await listArrangements(pool, scope.titleId, dropped.path));
  });
  return routes;
}
