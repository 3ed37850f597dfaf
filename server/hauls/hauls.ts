import { haulSettingsSchema, type HaulSettings } from '../../contract/haul-settings.ts';
import type { Haul, HaulAssets } from '../../contract/hauls.ts';
import { role } from '../acquire/builds/spans.ts';
import { inTransaction, type Pool } from '../platform/database/pool.ts';
import { change, parseColumn, select, selectOne, type Queryable } from '../platform/database/rows.ts';
import { ConflictError, NotFoundError, codeOf } from '../platform/plain-error.ts';
import { pathDigest } from '../store/hash.ts';

interface HaulRow {
  id: number;
  channelId: number;
  name: string;
  settings: unknown;
  assets: number;
  bytes: number | null;
  changedAt: Date;
}

// The size is that of the build which an asset was collected from.
const haulColumns = `SELECT h.id, h.channel_id AS channelId, h.name, h.settings, h.changed_at AS changedAt, COUNT(i.path_digest) AS assets, SUM(s.size) AS bytes
  FROM hauls h LEFT JOIN haul_items i ON i.haul_id = h.id LEFT JOIN builds b ON b.channel_id = h.channel_id AND b.label = i.build
    LEFT JOIN asset_spans s ON s.channel_id = h.channel_id AND s.path_digest = i.path_digest AND s.role = ${role.file}
      AND s.first_sequence <= b.sequence AND s.last_sequence >= b.sequence`;

function toHaul({ id, name, settings, assets, bytes, changedAt }: HaulRow): Haul {
  return {
    ...{ id, name, assets, bytes: Number(bytes ?? 0), changedAt: changedAt.toISOString() },
    settings: haulSettingsSchema.parse(parseColumn(settings)),
  };
}

/** The hauls of a channel, the one that was changed last first. */
export async function listHauls(database: Queryable, channelId: number): Promise<Haul[]> {
  const rows = await select<HaulRow>(
    database,
    `${haulColumns} WHERE h.channel_id = ? GROUP BY h.id ORDER BY h.changed_at DESC, h.id DESC`,
    [channelId],
  );
  return rows.map(toHaul);
}

/** @throws NotFoundError */
export async function findHaul(database: Queryable, id: number): Promise<Haul & { channelId: number }> {
  const row = await selectOne<HaulRow>(database, `${haulColumns} WHERE h.id = ? GROUP BY h.id`, [id]);
  if (!row) throw new NotFoundError(`There is no haul ${id}.`);
  return { ...toHaul(row), channelId: row.channelId };
}

/** @returns its number @throws ConflictError where the channel has one of this name */
export async function makeHaul(
  database: Queryable,
  channelId: number,
  name: string,
  settings: HaulSettings,
): Promise<number> {
  try {
    const { insertId } = await change(
      database,
      'INSERT INTO hauls (channel_id, name, settings) VALUES (?, ?, ?)',
      [channelId, name, JSON.stringify(settings)],
    );
    return insertId;
  } catch (error) {
    throw nameTaken(error, name);
  }
}

/** @throws NotFoundError, ConflictError */
export async function changeHaul(
  database: Queryable,
  id: number,
  { name, settings }: { name?: string | undefined; settings?: HaulSettings | undefined },
): Promise<void> {
  const known = await findHaul(database, id);
  try {
    await change(database, 'UPDATE hauls SET name = ?, settings = ?, changed_at = NOW(3) WHERE id = ?', [
      name ?? known.name,
      JSON.stringify(settings ?? known.settings),
      id,
    ]);
  } catch (error) {
    throw nameTaken(error, name ?? known.name);
  }
}

export async function removeHaul(database: Queryable, id: number): Promise<void> {
  await findHaul(database, id);
  await change(database, 'UPDATE haul_runs SET haul_id = NULL WHERE haul_id = ?', [id]);
  await change(database, 'DELETE FROM hauls WHERE id = ?', [id]);
}

function nameTaken(error: unknown, name: string): unknown {
  return codeOf(error) === 'ER_DUP_ENTRY'
    ? new ConflictError(`There is a haul named ${name} already.`)
    : error;
}

/** What is collected in a haul, by path. */
export async function readHaulAssets(
  database: Queryable,
  id: number,
  offset: number,
  limit: number,
): Promise<HaulAssets> {
  const whole = await selectOne<{ total: number }>(
    database,
    'SELECT COUNT(*) AS total FROM haul_items WHERE haul_id = ?',
    [id],
  );
  const assets = await select<{ path: string; build: string }>(
    database,
    `SELECT p.path, i.build FROM haul_items i JOIN paths p ON p.digest = i.path_digest
      WHERE i.haul_id = ? ORDER BY p.path LIMIT ? OFFSET ?`,
    [id, limit, offset],
  );
  return { total: whole?.total ?? 0, assets };
}

/** Puts paths of a build into a haul. @returns how many it did not have, and how many it has now */
export async function collect(
  pool: Pool,
  id: number,
  build: string,
  paths: readonly string[],
): Promise<{ added: number; total: number }> {
  return inTransaction(pool, async (connection) => {
    const { total: before } = await readHaulAssets(connection, id, 0, 0);
    for (let from = 0; from < paths.length; from += 1000) {
      const digests = paths.slice(from, from + 1000).map(pathDigest);
      await change(
        connection,
        `INSERT INTO haul_items (haul_id, path_digest, build) SELECT ?, digest, ? FROM paths WHERE digest IN (?)
          ON DUPLICATE KEY UPDATE build = VALUES(build)`,
        [id, build, digests],
      );
    }
    await change(connection, 'UPDATE hauls SET changed_at = NOW(3) WHERE id = ?', [id]);
    const { total } = await readHaulAssets(connection, id, 0, 0);
    return { added: total - before, total };
  });
}

/** @param paths null takes all of them out */
export async function uncollect(
  database: Queryable,
  id: number,
  paths: readonly string[] | null,
): Promise<void> {
  if (paths === null) await change(database, 'DELETE FROM haul_items WHERE haul_id = ?', [id]);
  const some = paths ?? [];
  for (let from = 0; from < some.length; from += 1000)
    await change(database, 'DELETE FROM haul_items WHERE haul_id = ? AND path_digest IN (?)', [
      id,
      some.slice(from, from + 1000).map(pathDigest),
    ]);
}

/** The haul that is collected into where nobody says which: the one that was changed last, a first one where there is none. */
export async function usualHaul(database: Queryable, channelId: number): Promise<number> {
  const [last] = await listHauls(database, channelId);
  return last?.id ?? makeHaul(database, channelId, 'First haul', haulSettingsSchema.parse({}));
}
