import type { JobQueue } from '../../jobs/queue.ts';
import type { DataFolder } from '../../platform/data-folder.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import { keyRequestSchema } from '../../../contract/keyring.ts';
import { findBuildById, findTitleNamed } from '../../acquire/builds/builds.ts';
import { readBody, readNumber } from '../../platform/http/read-request.ts';
import { tryKeyInThread } from '../source-requests.ts';
import { addDeed } from '../../people/history/audit.ts';
import { personOf } from '../../people/person.ts';
import { findJob } from '../../jobs/jobs.ts';
import { addKey, addUnlocking } from './add-key.ts';
import { listKeyring, removeKey } from '../../acquire/keyring/keys.ts';
import { loadMasterKey } from '../../acquire/keyring/master-key.ts';

/** What is to be done once a title has another key. @returns the job that does it; null where nothing is to be done */
export type OnKey = (pool: Pool, title: string) => Promise<number | null>;

/** Keys come in here, and none goes out. */
export function keyringRoutes({
  pool,
  folder,
  queue,
  onKey,
}: {
  pool: Pool;
  folder: DataFolder;
  queue: JobQueue;
  onKey: OnKey;
}): Hono {
  const routes = new Hono();
  routes.get('/keyring', async (context) => context.json(await listKeyring(pool)));
  routes.post('/keyring', async (context) => {
    const request = await readBody(context, keyRequestSchema);
    const added = await addKey(pool, loadMasterKey(folder.root), request, tryKeyInThread);
    const { id, title, remark, builds } = added.key;
    await addDeed(
      pool,
      await findTitleNamed(pool, title),
      personOf(context),
      `kept key ${id}${remark === '' ? '' : `, “${remark}”`}${builds.length > 0 ? `, of ${builds.join(', ')}` : ''}`,
    );
    const job = await onKey(pool, request.title);
    queue.look();
    return context.json({ ...added, jobs: [...added.jobs, ...(job === null ? [] : [job])] }, 201);
  });
  routes.delete('/keyring/:id', async (context) => {
    const id = readNumber(context, 'id');
    const known = (await listKeyring(pool)).keys.find((key) => key.id === id);
    await removeKey(pool, id);
    if (known)
      await addDeed(
        pool,
        await findTitleNamed(pool, known.title),
        personOf(context),
        `removed key ${id}${known.remark === '' ? '' : `, “${known.remark}”`}`,
      );
    return context.json({});
  });
  routes.post('/builds/:id/unlock', async (context) => {
    const { id, title, channel, label } = await findBuildById(pool, readNumber(context, 'id'));
    const jobId = await addUnlocking(pool, id, `${title}, ${channel}, build ${label}`, null);
    queue.look();
    return context.json(await findJob(pool, jobId), 201);
  });
  return routes;
}
