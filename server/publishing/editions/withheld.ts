import type { Withheld } from '../../../core/catalogue/withheld.ts';
import { role } from '../../acquire/builds/spans.ts';
import { select, type Queryable } from '../../platform/database/rows.ts';
import { detailsOf } from '../entries/entries.ts';

/** All that withheld entries of some channels show: their assets' paths, every content that ever lay there, and their names. */
export async function readWithheld(database: Queryable, channelIds: readonly number[]): Promise<Withheld> {
  if (channelIds.length === 0) return { paths: new Set(), hashes: new Set(), ids: new Set(), names: [] };
  const assets = await select<{ path: string; hash: Buffer | null }>(
    database,
    `SELECT DISTINCT p.path, s.hash FROM entries e JOIN entry_assets a ON a.entry_id = e.id
       JOIN paths p ON p.digest = a.path_digest
       LEFT JOIN asset_spans s ON s.channel_id = e.channel_id AND s.path_digest = a.path_digest AND s.role = ?
      WHERE e.channel_id IN (?) AND e.state = 'withheld'`,
    [role.file, channelIds],
  );
  const entries = await select<{ id: number; name: string; internalName: string; details: unknown }>(
    database,
    "SELECT id, name, internal_name AS internalName, details FROM entries WHERE channel_id IN (?) AND state = 'withheld'",
    [channelIds],
  );
  return {
    ids: new Set(entries.map(({ id }) => id)),
    paths: new Set(assets.map(({ path }) => path)),
    hashes: new Set(assets.flatMap(({ hash }) => hash?.toString('hex') ?? [])),
    names: entries.flatMap(({ name, internalName, details }) => {
      const { names, aliases } = detailsOf(details);
      return [name, internalName, ...names.map((one) => one.name), ...aliases].filter((one) => one !== '');
    }),
  };
}
