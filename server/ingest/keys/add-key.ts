import { join } from 'node:path';
import type { KeyAdded, KeyRequest } from '../../../contract/keyring.ts';
import { containerMark } from '../../../core/containers/entry-name.ts';
import { settingsOf } from '../../acquire/builds/settings.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select, selectOne } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import { addJob } from '../../jobs/queue.ts';
import { bytesOfKey, keepKey } from '../../acquire/keyring/keys.ts';
import type { MasterKey } from '../../acquire/keyring/master-key.ts';
import type { KeyTrial, LockedPlace } from './try-key.ts';

interface LockedFile {
  buildId: number;
  build: string;
  channel: string;
  unit: string;
  /** The first thing in it that is locked. */
  path: string;
  source: string;
  settings: unknown;
}

/** Files that a new key is tried on before it is kept. */
const triedFiles = 40;

/**
 * Tries a key on what is locked in the title's builds, keeps it, and has what it opens read.
 * @param tryKey tries it on what is locked
 * @throws ConflictError for a key that opens nothing, unless it is to be kept all the same: nothing is changed then
 */
export async function addKey(
  pool: Pool,
  master: MasterKey,
  request: KeyRequest,
  tryKey: (places: readonly LockedPlace[], key: Uint8Array) => Promise<KeyTrial>,
): Promise<KeyAdded> {
  const title = await selectOne<{ id: number }>(pool, 'SELECT id FROM titles WHERE name = ?', [
    request.title,
  ]);
  if (!title) throw new NotFoundError(`There is no title named ${request.title}.`);
  const locked = await findLocked(pool, title.id, request.builds);
  const { opens, refuses, unknown } = await tryKey(locked.map(placeOf), bytesOfKey(request));
  if (refuses.length > 0 && opens.length === 0 && !request.keep) {
    const tried = `${refuses.length} locked ${refuses.length === 1 ? 'archive' : 'archives'}`;
    const deeper = unknown.length > 0 ? ` (${unknown.length} more cannot be tried at once)` : '';
    throw new ConflictError(
      `This key does not open any of the ${tried} that it was tried on${deeper}: nothing was changed. Keep it all the same if what it opens is yet to come.`,
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

function placeOf({ source, settings, unit, path }: LockedFile): LockedPlace {
  const file = unit === '' ? source : join(source, settingsOf(settings).contentRoot ?? '', unit);
  // `a.zip!/b.zip!/c` in the file `a.zip` is locked within `b.zip`; an archive that hides its names is locked itself.
  const rest =
    path === unit
      ? []
      : path.slice(unit === '' ? 0 : unit.length + containerMark.length).split(containerMark);
  return { file, inner: rest.slice(0, -1) };
}

/** Has what is locked in a build read with the keys of today. @param owner who runs it at once */
export async function addUnlocking(
  pool: Pool,
  buildId: number,
  subject: string,
  owner: string | null,
): Promise<number> {
  // What brings in what people wait for goes before whole builds.
  const before = await selectOne<{ place: string | null }>(
    pool,
    "SELECT place FROM jobs WHERE build_id = ? AND kind = 'index' ORDER BY id DESC LIMIT 1",
    [buildId],
  );
  const place = before?.place ?? null;
  return addJob(pool, { kind: 'unlock', buildId, subject, params: null, priority: 1, owner, place });
}

/** What a format sheet unpacks is read again from the store, and is not among these. */
async function findLocked(pool: Pool, titleId: number, builds: readonly string[]): Promise<LockedFile[]> {
  return select<LockedFile>(
    pool,
    `SELECT b.id AS buildId, b.label AS build, c.name AS channel, b.source, b.settings, MIN(u.path) AS unit, MIN(p.path) AS path
       FROM problems q JOIN builds b ON b.id = q.build_id JOIN channels c ON c.id = b.channel_id
       JOIN paths u ON u.digest = q.unit_digest JOIN paths p ON p.digest = q.path_digest
      WHERE c.title_id = ? AND q.locked = 1
        AND NOT EXISTS (SELECT 1 FROM asset_spans s WHERE s.channel_id = b.channel_id AND s.path_digest = q.path_digest
          AND s.first_sequence <= b.sequence AND s.last_sequence >= b.sequence AND s.format = 'sheet-container')
        ${builds.length > 0 ? 'AND b.label IN (?)' : 'AND ? IS NOT NULL'}
      GROUP BY b.id, q.unit_digest ORDER BY b.id DESC LIMIT ?`,
    [titleId, builds.length > 0 ? builds : 0, triedFiles],
  );
}
