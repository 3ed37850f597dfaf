import type { ContentStore } from '../store/content-store.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Hono } from 'hono';
import { join } from 'node:path';
import * as z from 'zod';
import { entryDraftSchema, entrySaveSchema, rightsRequestSchema } from '../../contract/catalogue.ts';
import { listTitles } from '../acquire/builds/builds.ts';
import { change } from '../platform/database/rows.ts';
import { readBody, readQuery, readNumber } from '../platform/http/read-request.ts';
import { NotFoundError } from '../platform/plain-error.ts';
import { personOf } from '../people/person.ts';
import { createEntry, findEntry, listEntries, removeEntry, saveEntry } from './entries.ts';

const identifier = z.coerce.number().int();

export function catalogueRoutes({
  pool,
  folder,
  store,
}: {
  pool: Pool;
  folder: DataFolder;
  store: ContentStore;
}): Hono {
  const routes = new Hono();

  routes.get('/entries', async (context) => {
    const { channel } = readQuery(context, z.object({ channel: identifier }));
    return context.json(await listEntries(pool, [channel]));
  });
  routes.get('/entries/:id', async (context) =>
    context.json(await findEntry(pool, readNumber(context, 'id'))),
  );
  routes.post('/entries', async (context) =>
    context.json(await createEntry(pool, await readBody(context, entryDraftSchema), personOf(context)), 201),
  );
  routes.put('/entries/:id', async (context) => {
    const { revision, ...draft } = await readBody(context, entrySaveSchema);
    return context.json(await saveEntry(pool, readNumber(context, 'id'), draft, revision, personOf(context)));
  });
  routes.delete('/entries/:id', async (context) => {
    await removeEntry(pool, readNumber(context, 'id'), personOf(context));
    return context.body(null, 204);
  });

  routes.put('/titles/:id/rights', async (context) => {
    const { rights } = await readBody(context, rightsRequestSchema);
    await change(pool, 'UPDATE titles SET rights = ? WHERE id = ?', [rights, readNumber(context, 'id')]);
    return context.json({ rights });
  });
  routes.post('/titles/:id/publish', async (context) => {
    const id = readNumber(context, 'id');
    const title = (await listTitles(pool)).find((candidate) => candidate.id === id);
    if (!title) throw new NotFoundError(`There is no title ${id}.`);
    const out = join(folder.root, 'published', String(id));
    // Half of the application's code is what writes pages and reads models: nobody else waits for it.
    const { publishTitle } = await import('./publish.ts');
    return context.json(await publishTitle(pool, store, title.name, out));
  });
  return routes;
}
