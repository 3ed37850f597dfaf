import { serveStatic } from '@hono/node-server/serve-static';
import { Hono } from 'hono';
import { isAbsolute, resolve } from 'node:path';
import * as z from 'zod';
import {
  entryDraftSchema,
  entryQuerySchema,
  entrySaveSchema,
  publishRequestSchema,
  remarkRequestSchema,
  rightsRequestSchema,
  siteSettingsSchema,
  type EditionProblem,
  type Entry,
} from '../../contract/catalogue.ts';
import { startEntriesSchema } from '../../contract/started-entries.ts';
import type { Title } from '../../contract/builds.ts';
import { findBuild, listTitles } from '../acquire/builds/builds.ts';
import { sourcesOfBuilds } from '../hauls/begin-haul.ts';
import { refuseWithin } from '../hauls/target-folder.ts';
import type { JobQueue } from '../jobs/queue.ts';
import { addDeed } from '../people/history/audit.ts';
import { personOf } from '../people/person.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { Library } from '../library/library.ts';
import type { ContentStore } from '../store/content-store.ts';
import type { Pool } from '../platform/database/pool.ts';
import { change } from '../platform/database/rows.ts';
import { readBody, readNumber, readQuery } from '../platform/http/read-request.ts';
import { NotFoundError, PlainError } from '../platform/plain-error.ts';
import { collectEntries } from './editions/collect-entries.ts';
import { listEditions } from './editions/editions.ts';
import { siteFolderOf } from './editions/site-folder-of.ts';
import { addPublishJob } from './editions/publish-jobs.ts';
import { readWithheld } from './editions/withheld.ts';
import { createEntry, findEntries, findEntry, removeEntry, saveEntry } from './entries/entries.ts';
import { proposeEntry } from './entries/propose-entry.ts';
import { readInbox } from './entries/inbox.ts';
import { addRemark, listRemarks, settleRemark } from './entries/remarks.ts';
import { readSite, saveSite } from './site-settings.ts';

const inboxQuery = z.object({ channel: z.coerce.number().int(), from: z.string(), to: z.string() });
const mostProblems = 2000;

export function catalogueRoutes({
  pool,
  folder,
  queue,
  library,
  store,
}: {
  pool: Pool;
  library: Library;
  store: ContentStore;
  folder: DataFolder;
  queue: JobQueue;
}): Hono {
  const routes = new Hono();
  const titleOf = async (id: number): Promise<Title> => {
    const title = (await listTitles(pool)).find((candidate) => candidate.id === id);
    if (!title) throw new NotFoundError(`There is no title ${id}.`);
    return title;
  };

  routes.get('/entries', async (context) => {
    return context.json(await findEntries(pool, readQuery(context, entryQuerySchema)));
  });
  routes.get('/inbox', async (context) => {
    const { channel, from, to } = readQuery(context, inboxQuery);
    return context.json(
      await readInbox(pool, await findBuild(pool, channel, from), await findBuild(pool, channel, to)),
    );
  });
  routes.get('/entries/:id', async (context) =>
    context.json(await findEntry(pool, readNumber(context, 'id'))),
  );
  routes.post('/entries', async (context) =>
    context.json(await createEntry(pool, await readBody(context, entryDraftSchema), personOf(context)), 201),
  );
  routes.post('/entries/started', async (context) => {
    const { channel, build, paths } = await readBody(context, startEntriesSchema);
    const made: Entry[] = [];
    for (const path of paths) {
      const draft = await proposeEntry({ pool, library, store }, channel, build, path);
      made.push(await createEntry(pool, draft, personOf(context)));
    }
    return context.json(made, 201);
  });
  routes.put('/entries/:id', async (context) => {
    const { revision, ...draft } = await readBody(context, entrySaveSchema);
    return context.json(await saveEntry(pool, readNumber(context, 'id'), draft, revision, personOf(context)));
  });
  routes.delete('/entries/:id', async (context) => {
    await removeEntry(pool, readNumber(context, 'id'), personOf(context));
    return context.body(null, 204);
  });
  routes.get('/entries/:id/remarks', async (context) =>
    context.json(await listRemarks(pool, readNumber(context, 'id'))),
  );
  routes.post('/entries/:id/remarks', async (context) => {
    const { id } = await findEntry(pool, readNumber(context, 'id'));
    await addRemark(pool, id, await readBody(context, remarkRequestSchema), personOf(context));
    return context.json(await listRemarks(pool, id), 201);
  });
  routes.post('/entries/:id/remarks/:remark/settle', async (context) => {
    const id = readNumber(context, 'id');
    await settleRemark(pool, id, readNumber(context, 'remark'));
    return context.json(await listRemarks(pool, id));
  });

  routes.put('/titles/:id/rights', async (context) => {
    const { rights } = await readBody(context, rightsRequestSchema);
    const { id, rights: before } = await titleOf(readNumber(context, 'id'));
    await change(pool, 'UPDATE titles SET rights = ? WHERE id = ?', [rights, id]);
    await addDeed(pool, id, personOf(context), 'changed the statement on rights', [
      { item: 'rights', before: JSON.stringify(before), after: JSON.stringify(rights) },
    ]);
    return context.json({ rights });
  });
  routes.get('/titles/:id/site', async (context) =>
    context.json(await readSite(pool, readNumber(context, 'id'))),
  );
  routes.put('/titles/:id/site', async (context) => {
    const id = readNumber(context, 'id');
    const before = await readSite(pool, id);
    const site = await readBody(context, siteSettingsSchema);
    await saveSite(pool, id, site);
    await addDeed(pool, id, personOf(context), 'changed the site’s settings', [
      { item: 'site', before: JSON.stringify(before), after: JSON.stringify(site) },
    ]);
    return context.json(site);
  });

  routes.get('/titles/:id/editions', async (context) =>
    context.json(await listEditions(pool, (await titleOf(readNumber(context, 'id'))).id)),
  );
  /** What would be wrong with an edition of now. */
  routes.get('/titles/:id/problems', async (context) => {
    const { channels } = await titleOf(readNumber(context, 'id'));
    const withheld = await readWithheld(
      pool,
      channels.map(({ id }) => id),
    );
    const found: EditionProblem[] = [];
    for await (const { problems } of collectEntries(pool, channels, withheld)) {
      found.push(...problems);
      if (found.length >= mostProblems) break;
    }
    return context.json(found.slice(0, mostProblems));
  });
  routes.post('/titles/:id/publish', async (context) => {
    const title = await titleOf(readNumber(context, 'id'));
    const { backTo, isPreview, folder: wanted } = await readBody(context, publishRequestSchema);
    if (wanted !== '' && !isAbsolute(wanted)) throw new PlainError('The folder is named by its whole path.');
    const out = wanted === '' ? siteFolderOf(folder.root, title.id, isPreview) : resolve(wanted);
    if (wanted !== '') refuseWithin(out, [folder.root, ...(await sourcesOfBuilds(pool))]);
    const job = await addPublishJob(
      pool,
      title.name,
      {
        ...{ titleId: title.id, out, by: personOf(context), isPreview, backTo },
        at: new Date().toISOString(),
      },
      folder.place,
    );
    queue.look();
    return context.json({ job }, 201);
  });
  /** What was made to be looked at before it is published, as a server of static files would give it. */
  routes.get('/titles/:id/preview/*', async (context, next) => {
    const id = readNumber(context, 'id');
    const root = siteFolderOf(folder.root, id, true);
    const serve = serveStatic({ root, rewriteRequestPath: (path) => path.replace(/^.*?\/preview/, '') });
    context.header('Cache-Control', 'no-cache');
    // A game's own files, such as pictures that hold scripts, do nothing in the name of the application.
    if (context.req.path.includes('/preview/files/'))
      context.header('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox");
    return serve(context, next);
  });
  return routes;
}
