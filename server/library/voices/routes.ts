import { Hono } from 'hono';
import * as z from 'zod';
import { readQuery } from '../../platform/http/read-request.ts';
import type { ContentStore } from '../../store/content-store.ts';
import type { Library } from '../library.ts';
import { findSpoken } from './spoken.ts';

const query = z.object({ channel: z.coerce.number().int(), build: z.string(), path: z.string() });

export function voiceRoutes({ library, store }: { library: Library; store: ContentStore }): Hono {
  const routes = new Hono();
  routes.get('/spoken', async (context) => {
    const { channel, build, path } = readQuery(context, query);
    return context.json(await findSpoken({ library, store }, channel, build, path));
  });
  return routes;
}
