import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { bookmarkDraftSchema, type Bookmark } from '../../../contract/collecting.ts';
import { change, select } from '../../platform/database/rows.ts';
import { readBody, readQuery, readNumber } from '../../platform/http/read-request.ts';

const identifier = z.coerce.number().int();

export function bookmarkRoutes({ pool }: { pool: Pool }): Hono {
  const routes = new Hono();
  routes.get('/bookmarks', async (context) => {
    const { channel } = readQuery(context, z.object({ channel: identifier }));
    return context.json(
      await select<Bookmark>(
        pool,
        'SELECT id, name, place FROM bookmarks WHERE channel_id = ? ORDER BY name, id',
        [channel],
      ),
    );
  });
  routes.post('/bookmarks', async (context) => {
    const { channel, name, place } = await readBody(context, bookmarkDraftSchema);
    const { insertId } = await change(
      pool,
      'INSERT INTO bookmarks (channel_id, name, place) VALUES (?, ?, ?)',
      [channel, name, place],
    );
    return context.json({ id: insertId, name, place } satisfies Bookmark, 201);
  });
  routes.delete('/bookmarks/:id', async (context) => {
    await change(pool, 'DELETE FROM bookmarks WHERE id = ?', [readNumber(context, 'id')]);
    return context.body(null, 204);
  });
  return routes;
}
