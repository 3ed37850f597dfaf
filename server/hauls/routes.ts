import { rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { Hono } from 'hono';
import * as z from 'zod';
import { collectSchema, uncollectSchema } from '../../contract/collecting.ts';
import {
  haulChangeSchema,
  haulDraftSchema,
  haulRecordSchema,
  planRequestSchema,
  profileSchema,
  runRequestSchema,
  verdictSchema,
} from '../../contract/hauls.ts';
import { findPaths } from '../library/find-paths.ts';
import { readBody, readNumber, readQuery } from '../platform/http/read-request.ts';
import { NotFoundError, PlainError } from '../platform/plain-error.ts';
import { findChannelNamed, requestOfRecord } from './again.ts';
import {
  changeHaul,
  collect,
  findHaul,
  listHauls,
  makeHaul,
  readHaulAssets,
  removeHaul,
  uncollect,
  usualHaul,
} from './hauls.ts';
import { findByName } from './named-assets.ts';
import { beginHaul, planOfRequest, type HaulContext } from './begin-haul.ts';
import { planAnswer } from './plan.ts';
import { dropProfile, keepProfile, listProfiles } from './profiles.ts';
import { findRun, forgetRun, listResults, listRuns, listWrittenFiles } from './runs.ts';
import { keptRunFolder } from './target-folder.ts';
import { zipOf } from './zip.ts';

const channelQuery = z.object({ channel: z.coerce.number().int() });
const pageQuery = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(1000).default(500),
});
const resultsQuery = pageQuery.extend({ verdict: z.union([verdictSchema, z.literal('')]).default('') });
const nameQuery = channelQuery.extend({
  build: z.string(),
  text: z.string().trim().min(1, 'A name is needed.'),
});
const againSchema = z.object({ record: haulRecordSchema, folder: z.string().max(4096).default('') });

export function haulRoutes(services: HaulContext): Hono {
  const { pool, library, folder: data } = services;
  const routes = new Hono();

  routes.get('/hauls', async (context) =>
    context.json(await listHauls(pool, readQuery(context, channelQuery).channel)),
  );
  routes.post('/hauls', async (context) => {
    const { channel, name, settings } = await readBody(context, haulDraftSchema);
    return context.json(await findHaul(pool, await makeHaul(pool, channel, name, settings)), 201);
  });
  routes.put('/hauls/:id{[0-9]+}', async (context) => {
    const id = readNumber(context, 'id');
    await changeHaul(pool, id, await readBody(context, haulChangeSchema));
    return context.json(await findHaul(pool, id));
  });
  routes.delete('/hauls/:id{[0-9]+}', async (context) => {
    await removeHaul(pool, readNumber(context, 'id'));
    return context.json({});
  });
  routes.get('/hauls/:id{[0-9]+}/assets', async (context) => {
    const { offset, limit } = readQuery(context, pageQuery);
    return context.json(await readHaulAssets(pool, readNumber(context, 'id'), offset, limit));
  });
  routes.post('/hauls/collect', async (context) => {
    const { channel, build, paths, folder, text, kind, haul } = await readBody(context, collectSchema);
    const found =
      paths ??
      (await findPaths(library, channel, build, { folder, text: text ?? '', kind: kind ?? '' })).paths;
    const id = haul ?? (await usualHaul(pool, channel));
    const { name, channelId } = await findHaul(pool, id);
    if (channelId !== channel) throw new PlainError('This haul is of another channel.');
    return context.json({ haul: name, ...(await collect(pool, id, build, found)) });
  });
  routes.post('/hauls/:id{[0-9]+}/uncollect', async (context) => {
    const id = readNumber(context, 'id');
    await uncollect(pool, id, (await readBody(context, uncollectSchema)).paths);
    return context.json(await findHaul(pool, id));
  });
  routes.get('/hauls/named', async (context) => {
    const { channel, build, text } = readQuery(context, nameQuery);
    return context.json(await findByName(library, channel, build, text));
  });

  routes.post('/hauls/plan', async (context) => {
    const { offset, limit, ...request } = await readBody(context, planRequestSchema);
    return context.json(planAnswer(await planOfRequest(services, request), offset, limit));
  });
  routes.post('/hauls/run', async (context) => {
    const { folder, ...request } = await readBody(context, runRequestSchema);
    const name = request.haul === null ? request.name : (await findHaul(pool, request.haul)).name;
    return context.json(await beginHaul(services, { ...request, name }, folder), 201);
  });
  routes.post('/hauls/again', async (context) => {
    const { record, folder } = await readBody(context, againSchema);
    const channel = await findChannelNamed(pool, record);
    const request = await requestOfRecord(pool, channel, record);
    return context.json(
      await beginHaul(services, request, folder, {
        ...{ needs: false, family: false, levels: 'all' },
        arrangements: request.settings.along.arrangements,
      }),
      201,
    );
  });

  routes.get('/hauls/runs', async (context) =>
    context.json(await listRuns(pool, readQuery(context, channelQuery).channel)),
  );
  routes.get('/hauls/runs/:id{[0-9]+}', async (context) => {
    const { id, channelId } = await findRun(pool, readNumber(context, 'id'));
    return context.json((await listRuns(pool, channelId, id))[0]);
  });
  routes.delete('/hauls/runs/:id{[0-9]+}', async (context) => {
    const run = await findRun(pool, readNumber(context, 'id'));
    await forgetRun(pool, run.id);
    // What was written to a folder of somebody's is theirs.
    if (run.folder === '') await rm(keptRunFolder(data.root, run.id), { recursive: true, force: true });
    return context.json({});
  });
  routes.get('/hauls/runs/:id{[0-9]+}/results', async (context) => {
    const { verdict, offset, limit } = readQuery(context, resultsQuery);
    const found = await listResults(pool, readNumber(context, 'id'), verdict, offset, limit);
    return context.json({ results: found.map(({ writing: _writing, ...result }) => result) });
  });
  routes.get('/hauls/runs/:id{[0-9]+}/zip', async (context) => {
    const run = await findRun(pool, readNumber(context, 'id'));
    const [told] = await listRuns(pool, run.channelId, run.id);
    if (!told?.finishedAt) throw new NotFoundError('This haul has not been written to its end yet.');
    const names = (await listWrittenFiles(pool, run.id)).map(({ target }) => target);
    const folder = run.folder || keptRunFolder(data.root, run.id);
    const zip = zipOf(folder, [...names, 'haul.json', 'haul.html']);
    return new Response(Readable.toWeb(zip) as ReadableStream, {
      headers: {
        'Content-Type': 'application/zip',
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(run.name)}.zip`,
      },
    });
  });

  routes.get('/profiles', async (context) => context.json(await listProfiles(pool)));
  routes.put('/profiles', async (context) => {
    const { name, settings } = await readBody(context, profileSchema.omit({ isShipped: true }));
    await keepProfile(pool, name, settings);
    return context.json(await listProfiles(pool));
  });
  routes.delete('/profiles', async (context) => {
    await dropProfile(pool, readQuery(context, z.object({ name: z.string() })).name);
    return context.json(await listProfiles(pool));
  });
  return routes;
}
