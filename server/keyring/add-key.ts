import { join } from 'node:path';
import type { KeyAdded, KeyRequest } from '../../contract/keyring.ts';
import { settingsOf } from '../builds/settings.ts';
import type { Pool } from '../database/pool.ts';
import { select, selectOne } from '../database/rows.ts';
import { ConflictError, NotFoundError } from '../plain-error.ts';
import { addJob } from '../work/queue.ts';
import { bytesOfKey, keepKey } from './keys.ts';
import type { MasterKey } from './master-key.ts';
import type { KeyTrial } from './try-key.ts';

interface LockedFile {
  buildId: number;
  build: string;
  channel: string;
  unit: string;
  source: string;
  settings: unknown;
}

/** Files that a new key is tried on before it is kept. */
const triedFiles = 40;

/**
 * Tries a key on what is locked in the title's builds, keeps it, and has what it opens read.
 * @param tryKey tries it on files by their paths
 * @throws ConflictError for a key that opens nothing, unless it is to be kept all the same: nothing is changed then
 */
export async function addKey(
  pool: Pool,
  master: MasterKey,
  request: KeyRequest,
  tryKey: (files: readonly string[], key: Uint8Array) => Promise<KeyTrial>,
): Promise<KeyAdded> {
  const title = await selectOne<{ id: number }>(pool, 'SELECT id FROM titles WHERE name = ?', [
    request.title,
  ]);
  if (!title) throw new NotFoundError(`There is no title named ${request.title}.`);
  const locked = await findLocked(pool, title.id, request.builds);
  const files = locked.map(({ source, settings, unit }) =>
    unit === '' ? source : join(source, settingsOf(settings).contentRoot ?? '', unit),
  );
  const { opens, refuses, unknown } = await tryKey(files, bytesOfKey(request));
  if (refuses.length > 0 && opens.length + unknown.length === 0 && !request.keep) {
    throw new ConflictError(
      `This key opens none of the ${refuses.length === 1 ? 'locked archives (there is one)' : `${refuses.length} locked archives`}: nothing was changed. Keep it all the same if its build is yet to come.`,
    );
  }
  const key = await keepKey(pool, master, request);
  const promising = new Map(
    [...opens, ...unknown].flatMap((index) => {
      const file = locked[index];
      return file ? [[file.buildId, file] as const] : [];
    }),
  );
  const jobs: number[] = [];
  for (const { buildId, build, channel } of promising.values())
    jobs.push(await addUnlocking(pool, buildId, `${request.title}, ${channel}, build ${build}`, null));
  return { key, jobs, opens: opens.flatMap((index) => locked[index]?.unit ?? []) };
}

/** Has what is locked in a build read with the keys of today. @param owner who runs it at once */
export async function addUnlocking(
  pool: Pool,
  buildId: number,
  subject: string,
  owner: string | null,
): Promise<number> {
  // What brings in what people wait for goes before whole builds.
  return addJob(pool, { kind: 'unlock', buildId, subject, params: null, priority: 1, owner });
}

async function findLocked(pool: Pool, titleId: number, builds: readonly string[]): Promise<LockedFile[]> {
  return select<LockedFile>(
    pool,
    `SELECT b.id AS buildId, b.label AS build, c.name AS channel, b.source, b.settings, MIN(u.path) AS unit
       FROM problems q JOIN builds b ON b.id = q.build_id JOIN channels c ON c.id = b.channel_id
       JOIN paths u ON u.digest = q.unit_digest
      WHERE c.title_id = ? AND q.locked = 1 ${builds.length > 0 ? 'AND b.label IN (?)' : 'AND ? IS NOT NULL'}
      GROUP BY b.id, q.unit_digest ORDER BY b.id DESC LIMIT ?`,
    [titleId, builds.length > 0 ? builds : 0, triedFiles],
  );
}
