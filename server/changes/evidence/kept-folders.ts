import { foldersOf } from '../../../core/findings/folder-moves.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { role } from '../../acquire/builds/spans.ts';
import { digestRanges } from '../../platform/database/digest-ranges.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select } from '../../platform/database/rows.ts';

/** Which of some folders of the older build have something in them in the newer one. */
export async function keptFolders(
  pool: Pool,
  to: PlacedBuild,
  folders: ReadonlyMap<string, unknown>,
): Promise<Set<string>> {
  const kept = new Set<string>();
  for (const [low, high] of digestRanges()) {
    if (kept.size === folders.size) break;
    const rows = await select<{ path: string }>(
      pool,
      `SELECT p.path FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
        WHERE s.channel_id = ? AND s.path_digest BETWEEN ? AND ? AND s.role = ? AND s.first_sequence <= ? AND s.last_sequence >= ?`,
      [to.channelId, low, high, role.file, to.sequence, to.sequence],
    );
    for (const { path } of rows)
      for (const folder of foldersOf(path)) if (folders.has(folder)) kept.add(folder);
  }
  return kept;
}
