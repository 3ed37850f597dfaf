import { Hono } from 'hono';
import * as z from 'zod';
import { readQuery } from '../../platform/http/read-request.ts';
import type { ContentStore } from '../../store/content-store.ts';
import type { Library } from '../library.ts';
import { findSpriteTables } from './sprite-tables.ts';

const pixels = z.coerce.number().int().min(1).max(65_536);
const query = z.object({
  ...{ channel: z.coerce.number().int(), build: z.string(), path: z.string(), width: pixels, height: pixels },
});

export function spriteRoutes({ library, store }: { library: Library; store: ContentStore }): Hono {
  const routes = new Hono();
  routes.get('/sprites', async (context) => {
    const { channel, build, path, width, height } = readQuery(context, query);
    return context.json(await findSpriteTables({ library, store }, channel, build, path, { width, height }));
  });
  return routes;
}
