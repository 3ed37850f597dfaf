import type { SpanClient } from '../findings/span-client.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { noiseStateSchema, noiseTestSchema } from '../../../contract/noise.ts';
import { spanSchema } from '../../../contract/pass.ts';
import { findBuild } from '../../acquire/builds/builds.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { personOf } from '../../people/person.ts';
import { readRules, saveRules } from './rules.ts';

const ofTitle = z.object({ title: z.coerce.number().int() });

/** Rules that fold findings away, by title; a rule can be tried on a span before it is kept. */
export function noiseRoutes({ pool, spans }: { pool: Pool; spans: SpanClient }): Hono {
  const routes = new Hono();

  routes.get('/noise', async (context) =>
    context.json(await readRules(pool, readQuery(context, ofTitle).title)),
  );

  routes.put('/noise', async (context) => {
    const { title, rules, revision } = await readBody(context, ofTitle.extend(noiseStateSchema.shape));
    return context.json(await saveRules(pool, title, rules, revision, personOf(context)));
  });

  routes.post('/noise/try', async (context) => {
    const { channel, from, to, test } = await readBody(context, spanSchema.extend({ test: noiseTestSchema }));
    const span = { from: await findBuild(pool, channel, from), to: await findBuild(pool, channel, to) };
    return context.json(await spans.get('trial', { ...span, test }));
  });

  return routes;
}
