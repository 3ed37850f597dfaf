import type { ChannelTables } from '../search/channel-tables.ts';
import type { Library } from '../library.ts';
import { authorOf } from '../../people/person.ts';
import { saveLinks } from './accepted-links.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { kindSchema } from '../../../contract/kinds.ts';
import { acceptLinksSchema } from '../../../contract/references.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { NotFoundError } from '../../platform/plain-error.ts';

const where = z.object({ channel: z.coerce.number().int(), build: z.string() });
const page = {
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
};
const mostReached = 400;

export function referenceRoutes({
  pool,
  library,
  tables,
}: {
  pool: Pool;
  library: Library;
  tables: ChannelTables;
}): Hono {
  const routes = new Hono();

  routes.get('/references', async (context) => {
    const { channel, build, path } = readQuery(context, where.extend({ path: z.string() }));
    const found = await library.get('references', channel, build, { path, most: mostReached });
    if (!found) throw new NotFoundError(`The build ${build} has no asset at ${path}.`);
    return context.json(found);
  });
  routes.get('/references/missing', async (context) => {
    const { channel, build, ...ask } = readQuery(
      context,
      where.extend({ ...page, text: z.string().default('') }),
    );
    return context.json(await library.get('missing', channel, build, ask));
  });
  routes.get('/references/unnamed', async (context) => {
    const { channel, build, ...ask } = readQuery(
      context,
      where.extend({ ...page, kind: z.union([kindSchema, z.literal('')]).default('') }),
    );
    return context.json(await library.get('unnamed', channel, build, ask));
  });
  routes.post('/references/accept', async (context) => {
    const { channel, links, drop } = await readBody(
      context,
      acceptLinksSchema.extend({ channel: z.number().int() }),
    );
    await saveLinks(pool, channel, links, drop, authorOf(context));
    tables.forget();
    return context.json({ accepted: links.length, dropped: drop.length });
  });

  return routes;
}
