import type { ChannelTables } from '../search/channel-tables.ts';
import type { Library } from '../library.ts';
import { Hono } from 'hono';
import { z } from 'zod';
import { familyCorrectionSchema } from '../../../contract/families.ts';
import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { change } from '../../platform/database/rows.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { bumpNames } from '../names/lexicons.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { pathDigest } from '../../store/hash.ts';

const where = z.object({ channel: z.coerce.number().int(), build: z.string() });
const mostMembers = 500;
/** Says of a file that it is in no family but its own. */
const noFamily = Buffer.alloc(16);

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
    const family = await library.ask('family', channel, build, { path, most: mostMembers });
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
    return context.json(await library.ask('families', channel, build, ask));
  });
  routes.post('/family/correct', async (context) => {
    const {
      channel,
      paths,
      with: other,
      undo,
    } = await readBody(context, familyCorrectionSchema.extend({ channel: z.number().int() }));
    const { titleId } = await tables.builds(channel);
    await inTransaction(pool, async (connection) => {
      for (const path of paths)
        if (undo)
          await change(
            connection,
            'DELETE FROM family_corrections WHERE channel_id = ? AND path_digest = ?',
            [channel, pathDigest(path)],
          );
        else
          await change(
            connection,
            'REPLACE INTO family_corrections (channel_id, path_digest, with_digest) VALUES (?, ?, ?)',
            [channel, pathDigest(path), other === null ? noFamily : pathDigest(other)],
          );
    });
    await bumpNames(pool, titleId);
    tables.forget();
    return context.json({ corrected: paths.length });
  });

  return routes;
}
