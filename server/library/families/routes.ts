import type { ChannelTables } from '../search/channel-tables.ts';
import type { Library } from '../library.ts';
import { authorOf } from '../../people/person.ts';
import { correctFamilies } from './corrections.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { familyCorrectionSchema } from '../../../contract/families.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { NotFoundError } from '../../platform/plain-error.ts';

const where = z.object({ channel: z.coerce.number().int(), build: z.string() });
const mostMembers = 500;

export function familyRoutes({
  pool,
  library,
  tables,
}: {
  pool: Pool;
  library: Library;
  tables: ChannelTables;
}): Hono {
  const routes = new Hono();

  routes.get('/family', async (context) => {
    const { channel, build, path } = readQuery(context, where.extend({ path: z.string() }));
    const family = await library.get('family', channel, build, { path, most: mostMembers });
    if (!family) throw new NotFoundError(`The build ${build} has no asset at ${path}.`);
    return context.json(family);
  });
  routes.get('/families', async (context) => {
    const { channel, build, ...ask } = readQuery(
      context,
      where.extend({
        text: z.string().default(''),
        offset: z.coerce.number().int().min(0).default(0),
        limit: z.coerce.number().int().min(1).max(200).default(100),
      }),
    );
    return context.json(await library.get('families', channel, build, ask));
  });
  routes.post('/family/correct', async (context) => {
    const { channel, ...correction } = await readBody(
      context,
      familyCorrectionSchema.extend({ channel: z.number().int() }),
    );
    await correctFamilies(pool, channel, correction, authorOf(context));
    tables.forget();
    return context.json({ corrected: correction.paths.length });
  });

  return routes;
}
