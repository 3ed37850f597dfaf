import { Hono } from 'hono';
import * as z from 'zod';
import { nameOfTitle } from '../../acquire/builds/builds.ts';
import { keptSheetSchema, sheetsChangeSchema } from '../../../contract/kept-sheets.ts';
import type { JobQueue } from '../../jobs/queue.ts';
import { personOf } from '../../people/person.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { readBody, readNumber } from '../../platform/http/read-request.ts';
import type { Library } from '../library.ts';
import { addRecipesJob } from '../recipes/recipes-job.ts';
import { readSheets, saveSheets } from './sheets.ts';

export function formatRoutes({
  pool,
  library,
  queue,
}: {
  pool: Pool;
  library: Library;
  queue: JobQueue;
}): Hono {
  const routes = new Hono();
  routes.get('/titles/:id/format-sheets', async (context) =>
    context.json(await readSheets(pool, readNumber(context, 'id'))),
  );
  // All builds are looked through with them, in the queue.
  routes.put('/titles/:id/format-sheets', async (context) => {
    const titleId = readNumber(context, 'id');
    const change = await readBody(context, sheetsChangeSchema);
    const title = await nameOfTitle(pool, titleId);
    const before = new Map((await readSheets(pool, titleId)).sheets.map(({ name, text }) => [name, text]));
    await saveSheets(pool, titleId, change, personOf(context));
    const state = await readSheets(pool, titleId);
    const changed = state.sheets
      .filter(({ name, text }) => before.get(name) !== text)
      .map(({ name }) => name);
    const job = await addRecipesJob(pool, titleId, title, changed);
    queue.look();
    return context.json({ ...state, job });
  });
  routes.post('/format-sheets/fit', async (context) => {
    const { channel, build, text } = await readBody(
      context,
      z.object({ channel: z.number().int(), build: z.string(), text: keptSheetSchema.shape.text }),
    );
    return context.json(await library.get('fitSheet', channel, build, { text }));
  });
  return routes;
}
