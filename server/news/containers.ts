import type { ChangedContainer } from '../../contract/news.ts';
import { plural } from '../../core/figures.ts';
import { role } from '../builds/spans.ts';
import type { Pool } from '../database/pool.ts';
import { select } from '../database/rows.ts';
import type { SpanView } from '../findings/span-view.ts';

const shown = 100;

/** Archives that differ between the builds, and whether anything in them does. */
export async function containersOf(
  pool: Pool,
  { from, to, findings }: SpanView,
): Promise<ChangedContainer[]> {
  if (from.sequence === to.sequence) return [];
  const [early, late] = [Math.min(from.sequence, to.sequence), Math.max(from.sequence, to.sequence)];
  const rows = await select<{ path: string; files: number }>(
    pool,
    `SELECT p.path, (SELECT COUNT(*) FROM asset_spans e WHERE e.channel_id = s.channel_id AND e.unit_digest = s.unit_digest
          AND e.role = ? AND e.first_sequence <= ? AND e.last_sequence >= ?) AS files
       FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
      WHERE s.channel_id = ? AND s.role = ? AND s.first_sequence > ? AND s.first_sequence <= ? AND s.last_sequence >= ?
        AND EXISTS (SELECT 1 FROM asset_spans b WHERE b.channel_id = s.channel_id AND b.path_digest = s.path_digest
          AND b.role = s.role AND b.first_sequence <= ? AND b.last_sequence >= ?)
      ORDER BY p.path LIMIT ?`,
    [role.file, late, late, from.channelId, role.container, early, late, late, early, early, shown],
  );
  return rows.map(({ path, files }) => {
    const inside = findings.filter((finding) => finding.path.startsWith(`${path}!/`));
    const changed = inside.filter(({ status }) => status !== 'repacked' && status !== 'moved').length;
    const repacked = inside.length - changed;
    const sentence =
      inside.length === 0
        ? 'Packed otherwise: the same entries with the same contents.'
        : changed === 0
          ? `Packed otherwise: the same entries, ${plural(repacked, 'file')} repacked or moved.`
          : `${plural(changed, 'finding')} in it.`;
    return { path, files, changed, sentence };
  });
}
