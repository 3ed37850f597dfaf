import type { HaulRequest } from '../../contract/hauls.ts';
import type { JobQueue } from '../jobs/queue.ts';
import type { Library } from '../library/library.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { Pool } from '../platform/database/pool.ts';
import { select } from '../platform/database/rows.ts';
import { PlainError } from '../platform/plain-error.ts';
import { readHaulAssets } from './hauls.ts';
import { planHaul, type WholePlan } from './plan.ts';
import { startRun } from './runs.ts';
import { prepareTarget } from './target-folder.ts';

export interface HaulContext {
  pool: Pool;
  folder: DataFolder;
  library: Library;
  queue: JobQueue;
}

const mostAssets = 200_000;

/** What a request would write. @param along what comes along, where that is not what the settings say */
export async function planOfRequest(
  { pool, library }: HaulContext,
  { channel, haul, assets, settings, arrangements }: HaulRequest,
  along = settings.along,
): Promise<WholePlan> {
  const chosen = haul === null ? assets : (await readHaulAssets(pool, haul, 0, mostAssets)).assets;
  return planHaul({ pool, library }, channel, chosen, { ...settings, along }, arrangements ?? null);
}

/**
 * Puts the writing of a request into the queue.
 * @param wanted the folder that it goes to; empty keeps it with the data
 * @param along what comes along, where that is not what the settings say: a record names all of it
 * @throws PlainError where nothing would be written, or nothing can be written there
 */
export async function beginHaul(
  services: HaulContext,
  request: HaulRequest,
  wanted: string,
  along = request.settings.along,
): Promise<{ run: number; job: number }> {
  const { pool, folder: data, queue } = services;
  const plan = await planOfRequest(services, request, along);
  const [refused] = plan.refused;
  if (plan.writings.length === 0)
    throw new PlainError(
      refused
        ? `Nothing would be written: ${refused.path}: ${refused.reason}.`
        : 'There is nothing in this haul.',
    );
  const bytes = plan.writings.reduce((sum, { bytes: own }) => sum + own, 0);
  const folder =
    wanted === '' ? '' : await prepareTarget(wanted, [data.root, ...(await sourcesOfBuilds(pool))], bytes);
  const { runId, jobId } = await startRun(
    pool,
    {
      ...{ channelId: request.channel, haulId: request.haul, name: request.name },
      ...{ settings: request.settings, folder, place: data.place },
    },
    plan,
  );
  queue.look();
  return { run: runId, job: jobId };
}

/** Folders that builds were read from: nothing is ever written there. */
export async function sourcesOfBuilds(pool: Pool): Promise<string[]> {
  const rows = await select<{ source: string }>(
    pool,
    "SELECT DISTINCT source FROM builds WHERE source LIKE '/%'",
  );
  return rows.map(({ source }) => source);
}
