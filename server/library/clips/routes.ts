import { Hono } from 'hono';
import * as z from 'zod';
import { findBuild } from '../../acquire/builds/builds.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { readQuery } from '../../platform/http/read-request.ts';
import type { Library } from '../library.ts';
import { BoneLists, findFittingClips } from './fitting-clips.ts';

const query = z.object({ channel: z.coerce.number().int(), build: z.string(), path: z.string() });
/** So many files of a family are looked at. */
const mostMembers = 2000;

export function clipRoutes({ pool, library }: { pool: Pool; library: Library }): Hono {
  const routes = new Hono();
  const lists = new BoneLists();
  routes.get('/fitting-clips', async (context) => {
    const { channel, build, path } = readQuery(context, query);
    const placed = await findBuild(pool, channel, build);
    const family = await library.get('family', channel, build, { path, most: mostMembers });
    const members = new Set(family?.members.map((member) => member.path) ?? []);
    return context.json(await findFittingClips(pool, lists, placed, path, members));
  });
  return routes;
}
