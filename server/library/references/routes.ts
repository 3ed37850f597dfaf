import type { ChannelTables } from '../search/channel-tables.ts';
import type { Library } from '../library.ts';
import { Hono } from 'hono';
import { z } from 'zod';
import { kindSchema } from '../../../contract/kinds.ts';
import { acceptLinksSchema, type AcceptedLink } from '../../../contract/references.ts';
import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { change } from '../../platform/database/rows.ts';
import { readBody, readQuery } from '../../platform/http/read-request.ts';
import { bumpNames } from '../names/lexicons.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { pathDigest } from '../../store/hash.ts';

const where = z.object({ channel: z.coerce.number().int(), build: z.string() });
const page = {
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
};
const mostReached = 400;

export function referenceRoutes({
  pool,
  library,
  tables,
}: {
  pool: Pool;
  library: Library;
  tables: ChannelTables;
}): Hono {
  const routes = new Hono();

  routes.get('/references', async (context) => {
    const { channel, build, path } = readQuery(context, where.extend({ path: z.string() }));
    const found = await library.ask('references', channel, build, { path, most: mostReached });
    if (!found) throw new NotFoundError(`The build ${build} has no asset at ${path}.`);
    return context.json(found);
  });
  routes.get('/references/missing', async (context) => {
    const { channel, build, ...ask } = readQuery(
      context,
      where.extend({ ...page, text: z.string().default('') }),
    );
    return context.json(await library.ask('missing', channel, build, ask));
  });
  routes.get('/references/unnamed', async (context) => {
    const { channel, build, ...ask } = readQuery(
      context,
      where.extend({ ...page, kind: z.union([kindSchema, z.literal('')]).default('') }),
    );
    return context.json(await library.ask('unnamed', channel, build, ask));
  });
  routes.post('/references/accept', async (context) => {
    const { channel, links, drop } = await readBody(
      context,
      acceptLinksSchema.extend({ channel: z.number().int() }),
    );
    const { titleId } = await tables.builds(channel);
    await saveLinks(pool, channel, links, drop);
    await bumpNames(pool, titleId);
    tables.forget();
    return context.json({ accepted: links.length, dropped: drop.length });
  });

  return routes;
}

async function saveLinks(
  pool: Pool,
  channelId: number,
  links: readonly AcceptedLink[],
  drop: readonly Pick<AcceptedLink, 'from' | 'text'>[],
): Promise<void> {
  await inTransaction(pool, async (connection) => {
    for (const { from, text } of drop)
      await change(
        connection,
        'DELETE FROM accepted_links WHERE channel_id = ? AND from_digest = ? AND text_digest = ?',
        [channelId, pathDigest(from), pathDigest(text)],
      );
    for (const { from, text, target } of links)
      await change(
        connection,
        `REPLACE INTO accepted_links (channel_id, from_digest, text_digest, text, target_digest)
          VALUES (?, ?, ?, ?, ?)`,
        [channelId, pathDigest(from), pathDigest(text), text, pathDigest(target)],
      );
  });
}
