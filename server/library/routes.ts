import type { Library } from './library.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { kindSchema } from '../../contract/kinds.ts';
import { readQuery } from '../platform/http/read-request.ts';
import { NotFoundError } from '../platform/plain-error.ts';
import { findPaths } from './find-paths.ts';
import { queryOf } from './query-of.ts';
import { orders } from './search/find-assets.ts';

const where = z.object({ channel: z.coerce.number().int(), build: z.string() });
const page = {
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(200),
};
const order = {
  sort: z.enum(orders).default('path'),
  down: z.enum(['0', '1']).default('0'),
};
const asked = {
  text: z.string().default(''),
  kind: z.union([kindSchema, z.literal('')]).default(''),
};

// Made once: a schema costs more to make than to use.
const folderQuery = where.extend({ path: z.string().default(''), ...page, ...order });
const assetsQuery = where.extend({
  build: z.string().default(''),
  ...asked,
  ...page,
  limit: z.coerce.number().int().min(1).max(10_000).default(200),
  ...order,
});
const pathsQuery = where.extend({ folder: z.string().optional(), ...asked });

/** So many hits are counted; who has more says more. */
const mostHits = 1000;

export function libraryRoutes({ library }: { library: Library }): Hono {
  const routes = new Hono();

  routes.get('/folder', async (context) => {
    const { channel, build, path, offset, limit, sort, down } = readQuery(context, folderQuery);
    const folder = await library.get('folder', channel, build, {
      path,
      offset,
      limit,
      order: { by: sort, isDescending: down === '1' },
    });
    if (!folder) throw new NotFoundError(`The build ${build} has no folder ${path}.`);
    return context.json(folder);
  });

  routes.get('/assets', async (context) => {
    const { channel, build, offset, limit, sort, down, ...query } = readQuery(context, assetsQuery);
    return context.json(
      await library.search(channel, queryOf(query), {
        build: build === '' ? null : build,
        offset,
        limit,
        most: Math.max(mostHits, offset + limit),
        order: { by: sort, isDescending: down === '1' },
      }),
    );
  });

  // For copying: all paths of a search, or below a folder.
  routes.get('/paths', async (context) => {
    const { channel, build, folder, ...query } = readQuery(context, pathsQuery);
    return context.json(await findPaths(library, channel, build, { folder, ...query }));
  });

  return routes;
}
