import type { BuildSize, KindSize, Sizes } from '../../contract/housekeeping.ts';
import { formatOf } from '../../core/kinds/formats.ts';
import { select, selectOne, type Queryable } from '../platform/database/rows.ts';

/** How much room titles, builds and kinds take: as they lie in the builds, and in the store, where a content counts once. */
export async function measureSizes(database: Queryable): Promise<Sizes> {
  const store = await selectOne<{ contents: number; bytes: number }>(
    database,
    'SELECT COUNT(*) AS contents, COALESCE(SUM(size), 0) AS bytes FROM contents',
  );
  const titles = await select<{ id: number; name: string }>(
    database,
    'SELECT id, name FROM titles ORDER BY name',
  );
  const sizes: Sizes = { contents: store?.contents ?? 0, bytes: Number(store?.bytes ?? 0), titles: [] };
  for (const { id, name } of titles) {
    const kinds = await sizesByKind(database, id);
    sizes.titles.push({
      name,
      bytes: kinds.reduce((sum, { bytes }) => sum + bytes, 0),
      kinds,
      builds: await sizesByBuild(database, id),
    });
  }
  return sizes;
}

async function sizesByKind(database: Queryable, titleId: number): Promise<KindSize[]> {
  const rows = await select<{ format: string; contents: number; bytes: number }>(
    database,
    `SELECT d.format, COUNT(*) AS contents, SUM(c.size) AS bytes FROM (
         SELECT s.hash, MIN(s.format) AS format FROM asset_spans s JOIN channels ch ON ch.id = s.channel_id
          WHERE ch.title_id = ? AND s.role = 0 AND s.hash IS NOT NULL GROUP BY s.hash) d
       JOIN contents c ON c.hash = d.hash GROUP BY d.format`,
    [titleId],
  );
  const kinds = new Map<string, KindSize>();
  for (const { format, contents, bytes } of rows) {
    const { kind } = formatOf(format);
    const size = kinds.get(kind) ?? { kind, contents: 0, bytes: 0 };
    size.contents += contents;
    size.bytes += Number(bytes);
    kinds.set(kind, size);
  }
  return [...kinds.values()].sort((a, b) => b.bytes - a.bytes);
}

async function sizesByBuild(database: Queryable, titleId: number): Promise<BuildSize[]> {
  const builds = await select<{
    id: number;
    channelId: number;
    channel: string;
    label: string;
    sequence: number;
    bytes: number | null;
  }>(
    database,
    `SELECT b.id, b.channel_id AS channelId, c.name AS channel, b.label, b.sequence, JSON_VALUE(b.result, '$.bytes') AS bytes
       FROM builds b JOIN channels c ON c.id = b.channel_id
      WHERE c.title_id = ? AND b.sequence IS NOT NULL ORDER BY c.id, b.sequence`,
    [titleId],
  );
  const sizes: BuildSize[] = [];
  for (const [index, { id, channelId, channel, label, sequence, bytes }] of builds.entries()) {
    const following = builds[index + 1];
    const end = following?.channelId === channelId ? following.sequence - 1 : 4_294_967_295;
    // Contents all of whose spans lie between this build and the next one: removing the build frees them.
    const own = await selectOne<{ bytes: number | null }>(
      database,
      `SELECT SUM(c.size) AS bytes FROM (
           SELECT DISTINCT s.hash FROM asset_spans s
            WHERE s.channel_id = ? AND s.first_sequence = ? AND s.last_sequence <= ? AND s.role = 0 AND s.hash IS NOT NULL
              AND NOT EXISTS (SELECT 1 FROM asset_spans o WHERE o.hash = s.hash
                AND (o.channel_id <> s.channel_id OR o.first_sequence <> s.first_sequence OR o.last_sequence > ?))) d
         JOIN contents c ON c.hash = d.hash`,
      [channelId, sequence, end, end],
    );
    sizes.push({ id, channel, label, bytes: Number(bytes ?? 0), ownBytes: Number(own?.bytes ?? 0) });
  }
  return sizes;
}
