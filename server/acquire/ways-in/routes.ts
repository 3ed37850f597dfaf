import type { JobQueue } from '../../jobs/queue.ts';
import type { DataFolder } from '../../platform/data-folder.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import {
  chunkBytes,
  followerChangeSchema,
  followerRequestSchema,
  uploadRequestSchema,
} from '../../../contract/ways-in.ts';
import { readBody, readQuery, readNumber } from '../../platform/http/read-request.ts';
import { PlainError } from '../../platform/plain-error.ts';
import { findJob } from '../../jobs/jobs.ts';
import { addFollower, changeFollower, listFollowers, lookNow, removeFollower } from './followers.ts';
import { beginUpload, findUpload, finishUpload, listUploads, removeUpload, takeChunk } from './uploads.ts';

const chunkQuery = z.object({
  offset: z.coerce.number().int().min(0),
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
});

export function waysInRoutes({
  pool,
  folder,
  queue,
}: {
  pool: Pool;
  folder: DataFolder;
  queue: JobQueue;
}): Hono {
  const routes = new Hono();
  const place = folder.uploads;
  routes.get('/followers', async (context) => context.json(await listFollowers(pool)));
  routes.post('/followers', async (context) => {
    const follower = await addFollower(pool, await readBody(context, followerRequestSchema));
    return context.json(follower, 201);
  });
  routes.patch('/followers/:id', async (context) => {
    const change = await readBody(context, followerChangeSchema);
    return context.json(await changeFollower(pool, readNumber(context, 'id'), change));
  });
  routes.delete('/followers/:id', async (context) => {
    await removeFollower(pool, readNumber(context, 'id'));
    return context.json({});
  });
  routes.post('/followers/:id/look', async (context) => {
    const jobId = await lookNow(pool, readNumber(context, 'id'));
    queue.look();
    return context.json(await findJob(pool, jobId), 201);
  });

  routes.get('/uploads', async (context) => context.json(await listUploads(pool)));
  routes.post('/uploads', async (context) => {
    const id = await beginUpload(pool, await readBody(context, uploadRequestSchema));
    return context.json(await findUpload(pool, place, id), 201);
  });
  routes.get('/uploads/:id', async (context) =>
    context.json(await findUpload(pool, place, readNumber(context, 'id'))),
  );
  routes.put('/uploads/:id/files/:number', async (context) => {
    const { offset, sha256 } = readQuery(context, chunkQuery);
    const bytes = new Uint8Array(await context.req.arrayBuffer());
    if (bytes.length > chunkBytes) throw new PlainError(`A chunk has at most ${chunkBytes} bytes.`);
    const received = await takeChunk(
      pool,
      place,
      { id: readNumber(context, 'id'), number: readNumber(context, 'number'), offset, sha256 },
      bytes,
    );
    return context.json({ received });
  });
  routes.post('/uploads/:id/finish', async (context) =>
    context.json(await finishUpload(pool, place, readNumber(context, 'id'))),
  );
  routes.delete('/uploads/:id', async (context) => {
    await removeUpload(pool, place, readNumber(context, 'id'));
    return context.json({});
  });
  return routes;
}
