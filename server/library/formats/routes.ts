import { Hono } from 'hono';
import * as z from 'zod';
import { formatSheetSchema } from '../../../contract/format-sheets.ts';
import {
  formatVersionSchema,
  keptSheetSchema,
  sheetsChangeSchema,
  type SheetLook,
} from '../../../contract/kept-sheets.ts';
import { findBuild, findBuildOf, findTitleOf, nameOfTitle } from '../../acquire/builds/builds.ts';
import { setFormatVersion } from '../../acquire/builds/settings.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import { openedSheet } from '../../decode/opened-sheets.ts';
import type { ContentStore } from '../../store/content-store.ts';
import type { LocalContent } from '../../store/local-content.ts';
import { NotFoundError, PlainError } from '../../platform/plain-error.ts';
import { findAt } from '../assets/assets.ts';
import type { JobQueue } from '../../jobs/queue.ts';
import { personOf } from '../../people/person.ts';
import type { DataFolder } from '../../platform/data-folder.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { readBody, readNumber } from '../../platform/http/read-request.ts';
import type { Library } from '../library.ts';
import { addRecipesJob } from '../recipes/recipes-job.ts';
import { surroundingsOf } from './descriptions.ts';
import { formatBy, readSheets, saveSheets } from './sheets.ts';

const where = z.object({ channel: z.number().int(), build: z.string() });
const sheetText = keptSheetSchema.shape.text;
const patternsSchema = formatSheetSchema.shape.files.transform((files) => [files].flat());
const lookBody = where.extend({ path: z.string(), text: sheetText, version: z.string().optional() });
const firstImage = { level: 0, layer: 0, face: 0, slice: 0, frame: 0 };

export function formatRoutes({
  pool,
  folder,
  library,
  queue,
  store,
  readers,
}: {
  pool: Pool;
  folder: DataFolder;
  library: Library;
  queue: JobQueue;
  store: ContentStore;
  readers: Pick<OnDemandReaders, 'show' | 'facts'>;
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
  // What the sheet reads is read again: in all builds, since contents are theirs together.
  routes.put('/builds/:id/format-version', async (context) => {
    const build = await findBuildOf(pool, readNumber(context, 'id'));
    const { sheet, version } = await readBody(context, formatVersionSchema);
    const titleId = await findTitleOf(pool, build.channelId);
    const kept = (await readSheets(pool, titleId)).sheets.find(({ name }) => name === sheet);
    if (!kept) throw new NotFoundError(`There is no format sheet named ${sheet}.`);
    const { versions } = openedSheet(kept.text);
    if (version !== null && !versions.includes(version))
      throw new PlainError(
        versions[0] === ''
          ? `The sheet ${sheet} has no versions.`
          : `The sheet ${sheet} has no version ${version}: it has ${versions.join(', ')}.`,
      );
    await setFormatVersion(pool, build, sheet, version);
    const job = await addRecipesJob(pool, titleId, await nameOfTitle(pool, titleId), [sheet]);
    queue.look();
    return context.json({ job });
  });

  routes.post('/format-sheets/fit', async (context) => {
    const { channel, build, text, from } = await readBody(
      context,
      where.extend({ text: sheetText, from: z.number().int().min(0).default(0) }),
    );
    const around = await surroundingsOf({ pool, folder }, await findBuild(pool, channel, build), text);
    return context.json(await library.get('fitSheet', channel, build, { text, from, ...around }));
  });

  routes.post('/format-sheets/files', async (context) => {
    const { channel, build, patterns } = await readBody(context, where.extend({ patterns: patternsSchema }));
    return context.json(await library.get('sheetFiles', channel, build, { patterns }));
  });

  /** What somebody who writes a sheet sees of a file: as the readers have it, and nothing of it is kept. */
  const contentOf = async (body: z.infer<typeof lookBody>) => {
    const { channel, build, path, text, version } = body;
    const placed = await findBuild(pool, channel, build);
    const asset = await findAt(pool, placed, path);
    if (!asset?.hash) throw new NotFoundError(`The build ${build} has no asset at ${path}.`);
    const format = formatBy(openedSheet(text));
    if (!format) throw new PlainError('Nothing comes out of this sheet that could be looked at.');
    const findFile = library.fileFinder(placed);
    const resolve = async (reference: string): Promise<LocalContent | null> => {
      const file = await findFile(path, reference);
      return file === null ? null : ((await store.ensureLocal([file])).get(file) ?? null);
    };
    const around = await surroundingsOf({ pool, folder }, placed, text);
    const sheet = { ...around, text, version: version ?? around.version };
    return { content: { path, format, sheet, content: await store.getLocal(asset.hash) }, resolve };
  };
  routes.post('/format-sheets/look', async (context) => {
    const { content, resolve } = await contentOf(await readBody(context, lookBody));
    const { facts, reason } = await readers.facts.run({ type: 'facts', content }, resolve);
    return context.json({ format: content.format, facts, reason } satisfies SheetLook);
  });
  routes.post('/format-sheets/shown', async (context) => {
    const { content, resolve } = await contentOf(await readBody(context, lookBody));
    const { mediaType, bytes } = await readers.show(content, firstImage, resolve);
    return context.body(new Uint8Array(bytes), 200, { 'Content-Type': mediaType });
  });
  return routes;
}
