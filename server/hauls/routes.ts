import type { Library } from '../library/library.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { collectSchema, uncollectSchema } from '../../contract/collecting.ts';
import { readBody, readQuery } from '../platform/http/read-request.ts';
import { mostPaths, queryOf } from '../library/routes.ts';
import { collect, readHaul, uncollect } from './hauls.ts';

export function haulRoutes({ pool, library }: { pool: Pool; library: Library }): Hono {
  const routes = new Hono();
  routes.get('/haul', async (context) => {
    const { channel, offset, limit } = readQuery(
      context,
      z.object({
        channel: z.coerce.number().int(),
        offset: z.coerce.number().int().min(0).default(0),
        limit: z.coerce.number().int().min(1).max(1000).default(500),
      }),
    );
    return context.json(await readHaul(pool, channel, offset, limit));
  });
  routes.post('/haul/collect', async (context) => {
    const { channel, build, paths, folder, text, kind } = await readBody(context, collectSchema);
    const query = folder === undefined ? queryOf({ text: text ?? '', kind: kind ?? '' }) : null;
    const found =
      paths ??
      (
        await library.get('paths', channel, build, {
          query,
          folder: folder ?? '',
          textFile: query && (await library.textFileFor(channel, query)),
          most: mostPaths,
        })
      ).paths;
    return context.json(await collect(pool, channel, build, found));
  });
  routes.post('/haul/uncollect', async (context) => {
    const { channel, paths } = await readBody(context, uncollectSchema);
    await uncollect(pool, channel, paths);
    return context.json(await readHaul(pool, channel, 0, 1));
  });
  return routes;
}
