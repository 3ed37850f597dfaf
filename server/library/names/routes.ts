import type { ChannelTables } from '../search/channel-tables.ts';
import type { Library } from '../library.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { lexiconChangeSchema } from '../../../contract/names.ts';
import {
  LexiconFileError,
  lexiconToCsv,
  lexiconToJson,
  readLexicon,
} from '../../../core/names/lexicon-file.ts';
import { readBody, readQuery, readNumber } from '../../platform/http/read-request.ts';
import { PlainError } from '../../platform/plain-error.ts';
import { authorOf, personOf } from '../../people/person.ts';
import { changeLexicon, readLexiconState } from './lexicons.ts';

const identifier = z.coerce.number().int();
const where = z.object({ channel: identifier, build: z.string() });

export function nameRoutes({
  pool,
  library,
  tables,
}: {
  pool: Pool;
  library: Library;
  tables: ChannelTables;
}): Hono {
  const routes = new Hono();

  routes.get('/titles/:id/lexicon', async (context) =>
    context.json(await readLexiconState(pool, readNumber(context, 'id'))),
  );
  routes.post('/titles/:id/lexicon', async (context) => {
    const titleId = readNumber(context, 'id');
    await changeLexicon(pool, titleId, await readBody(context, lexiconChangeSchema), authorOf(context));
    tables.forget();
    return context.json(await readLexiconState(pool, titleId));
  });
  routes.get('/titles/:id/lexicon/file', async (context) => {
    const { form } = readQuery(context, z.object({ form: z.enum(['csv', 'json']).default('csv') }));
    const { entries } = await readLexiconState(pool, readNumber(context, 'id'));
    return context.body(form === 'csv' ? lexiconToCsv(entries) : lexiconToJson(entries), 200, {
      'Content-Type': form === 'csv' ? 'text/csv; charset=utf-8' : 'application/json',
      'Content-Disposition': `attachment; filename="lexicon.${form}"`,
    });
  });
  routes.post('/titles/:id/lexicon/file', async (context) => {
    const titleId = readNumber(context, 'id');
    const { text } = await readBody(context, z.object({ text: z.string().max(20_000_000) }));
    try {
      await changeLexicon(pool, titleId, lexiconChangeSchema.parse({ put: readLexicon(text) }), {
        by: personOf(context),
        seen: null,
      });
    } catch (error) {
      throw error instanceof LexiconFileError
        ? new PlainError(`The lexicon was not read: ${error.message}.`)
        : error;
    }
    tables.forget();
    return context.json(await readLexiconState(pool, titleId));
  });

  routes.get('/names/proposals', async (context) => {
    const { channel, build } = readQuery(context, where);
    const { titleId } = await tables.builds(channel);
    const { refused } = await readLexiconState(pool, titleId);
    return context.json(await library.get('proposals', channel, build, { refused }));
  });
  routes.get('/names/fresh', async (context) => {
    const { channel, build } = readQuery(context, where);
    return context.json(await library.get('freshParts', channel, build, {}));
  });
  routes.get('/names/read', async (context) => {
    const { channel, build, path } = readQuery(context, where.extend({ path: z.string() }));
    return context.json(await library.get('readName', channel, build, { path }));
  });

  return routes;
}
