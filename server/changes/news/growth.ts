import type { News } from '../../../contract/news.ts';
import { kindSchema, type Kind } from '../../../contract/kinds.ts';
import { formatOf } from '../../../core/kinds/formats.ts';
import { role } from '../../acquire/builds/spans.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select } from '../../platform/database/rows.ts';

/** Bytes and files of each kind in two builds, those with most bytes first. */
export async function growthOf(pool: Pool, from: PlacedBuild, to: PlacedBuild): Promise<News['growth']> {
  const [old, now] = [await sizesOf(pool, from), await sizesOf(pool, to)];
  return kindSchema.options
    .map((kind) => ({
      kind,
      oldBytes: old.get(kind)?.bytes ?? 0,
      newBytes: now.get(kind)?.bytes ?? 0,
      oldFiles: old.get(kind)?.files ?? 0,
      newFiles: now.get(kind)?.files ?? 0,
    }))
    .filter(({ oldFiles, newFiles }) => oldFiles + newFiles > 0)
    .sort((a, b) => b.newBytes - a.newBytes);
}

async function sizesOf(pool: Pool, build: PlacedBuild): Promise<Map<Kind, { bytes: number; files: number }>> {
  const rows = await select<{ format: string; bytes: number | null; files: number }>(
    pool,
    `SELECT format, SUM(size) AS bytes, COUNT(*) AS files FROM asset_spans
      WHERE channel_id = ? AND role = ? AND first_sequence <= ? AND last_sequence >= ? GROUP BY format`,
    [build.channelId, role.file, build.sequence, build.sequence],
  );
  const sizes = new Map<Kind, { bytes: number; files: number }>();
  for (const { format, bytes, files } of rows) {
    const { kind } = formatOf(format);
    const before = sizes.get(kind) ?? { bytes: 0, files: 0 };
    sizes.set(kind, { bytes: before.bytes + Number(bytes ?? 0), files: before.files + files });
  }
  return sizes;
}
