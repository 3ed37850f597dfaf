import type { Library } from '../../library/library.ts';
import { compareOnDemand } from './comparer.ts';
import type { ContentStore } from '../../store/content-store.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import type { DataFolder } from '../../platform/data-folder.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import { statesQuerySchema } from '../../../contract/comparisons.ts';
import { findAsset } from '../../library/assets/assets.ts';
import { findBuild } from '../../acquire/builds/builds.ts';
import { readQuery } from '../../platform/http/read-request.ts';
import { descriptionsFor } from '../../library/formats/descriptions.ts';

/** Two states beside each other: of one thing, or of any two. */
export function comparisonRoutes({
  pool,
  folder,
  store,
  readers,
  library,
}: {
  pool: Pool;
  folder: DataFolder;
  store: ContentStore;
  readers: OnDemandReaders;
  library: Library;
}): Hono {
  const routes = new Hono();
  routes.get('/compared', async (context) => {
    const { channel, oldBuild, oldPath, newBuild, newPath } = readQuery(context, statesQuerySchema);
    const [from, to] = [await findBuild(pool, channel, oldBuild), await findBuild(pool, channel, newBuild)];
    const finders = [library.fileFinder(from), library.fileFinder(to)] as const;
    const [old, now] = [
      await findAsset(pool, from, oldPath, finders[0]),
      await findAsset(pool, to, newPath, finders[1]),
    ];
    const describe = await descriptionsFor({ pool, folder }, to, [old.format, now.format]);
    const compared =
      old.hash === null || now.hash === null
        ? {
            comparison: null,
            reason: `${old.hash === null ? 'the older' : 'the newer'} one could not be read`,
            picture: null,
          }
        : await compareOnDemand({
            pool,
            store,
            readers,
            finders,
            pair: {
              oldHash: old.hash,
              oldFormat: old.format,
              hash: now.hash,
              format: now.format,
              oldPath,
              path: newPath,
            },
            describe,
          });
    return context.json({ old, new: now, ...compared });
  });
  return routes;
}
