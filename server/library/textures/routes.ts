import { Hono } from 'hono';
import { askTextureSetsSchema, sayTexturesSchema } from '../../../contract/texture-sets.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import { authorOf } from '../../people/person.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { readBody } from '../../platform/http/read-request.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import type { Library } from '../library.ts';
import { listSaidTextures, sayTextures } from './corrections.ts';

export function textureRoutes({ pool, library }: { pool: Pool; library: Library }): Hono {
  const routes = new Hono();
  // A body, for models have many materials with long names.
  routes.post('/texture-sets', async (context) => {
    const { channel, build, path, materials } = await readBody(context, askTextureSetsSchema);
    const said = await listSaidTextures(pool, await findTitleOf(pool, channel), path);
    const sets = await library.get('textureSets', channel, build, { path, materials, said });
    if (!sets) throw new NotFoundError(`The build ${build} has no asset at ${path}.`);
    return context.json(sets);
  });
  routes.post('/texture-sets/say', async (context) => {
    const body = await readBody(context, sayTexturesSchema);
    await sayTextures(pool, body, authorOf(context));
    return context.json({ said: body.said.length, dropped: body.drop.length });
  });
  return routes;
}
