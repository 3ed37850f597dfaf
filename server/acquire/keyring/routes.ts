import { Hono } from 'hono';
import { z } from 'zod';
import { keyRequestSchema } from '../../../contract/keyring.ts';
import { findBuildById } from '../builds/builds.ts';
import { readBody } from '../../platform/http/read-request.ts';
import type { ServerContext } from '../../main/server-context.ts';
import { tryKeyInThread } from '../../ingest/ask-source.ts';
import { findJob } from '../../jobs/jobs.ts';
import { addKey, addUnlocking } from './add-key.ts';
import { listKeyring, removeKey } from './keys.ts';
import { loadMasterKey } from './master-key.ts';

const identifier = z.coerce.number().int();

/** Keys come in here, and none goes out. */
export function keyringRoutes({ pool, folder, runner }: ServerContext): Hono {
  const routes = new Hono();
  routes.get('/keyring', async (context) => context.json(await listKeyring(pool)));
  routes.post('/keyring', async (context) => {
    const request = await readBody(context, keyRequestSchema);
    const added = await addKey(pool, loadMasterKey(folder.root), request, tryKeyInThread);
    runner.look();
    return context.json(added, 201);
  });
  routes.delete('/keyring/:id{[0-9]+}', async (context) => {
    await removeKey(pool, identifier.parse(context.req.param('id')));
    return context.json({});
  });
  routes.post('/builds/:id{[0-9]+}/unlock', async (context) => {
    const { id, title, channel, label } = await findBuildById(
      pool,
      identifier.parse(context.req.param('id')),
    );
    const jobId = await addUnlocking(pool, id, `${title}, ${channel}, build ${label}`, null);
    runner.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  return routes;
}
