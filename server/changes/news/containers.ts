import type { ChangedContainer } from '../../../contract/news.ts';
import { plural } from '../../../core/figures.ts';
import { foldersOf } from '../../../core/findings/folder-moves.ts';
import { role } from '../../acquire/builds/spans.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select } from '../../platform/database/rows.ts';
import type { SpanView } from '../findings/span-view.ts';

const shown = 100;

/** Archives that differ between the builds, and whether anything in them does. */
export async function containersOf(
  pool: Pool,
  { from, to, findings }: SpanView,
): Promise<ChangedContainer[]> {
  const [early, late] = [Math.min(from.sequence, to.sequence), Math.max(from.sequence, to.sequence)];
  const rows = await select<{ path: string }>(
    pool,
    `SELECT p.path FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
      WHERE s.channel_id = ? AND s.role = ? AND s.first_sequence > ? AND s.first_sequence <= ? AND s.last_sequence >= ?
        AND EXISTS (SELECT 1 FROM asset_spans b WHERE b.channel_id = s.channel_id AND b.path_digest = s.path_digest
          AND b.role = s.role AND b.first_sequence <= ? AND b.last_sequence >= ?)
      ORDER BY p.path LIMIT ?`,
    [from.channelId, role.container, early, late, late, early, early, shown],
  );
  const inside = new Map(rows.map(({ path }) => [path, { changed: 0, repacked: 0 }]));
  for (const { path, status } of findings)
    for (const folder of foldersOf(path)) {
      const counts = folder.endsWith('!') ? inside.get(folder.slice(0, -1)) : undefined;
      if (counts) counts[status === 'repacked' || status === 'moved' ? 'repacked' : 'changed']++;
    }
  return [...inside].map(([path, { changed, repacked }]) => ({
    path,
    changed,
    sentence: sentenceOf(changed, repacked),
  }));
}

function sentenceOf(changed: number, repacked: number): string {
  if (changed > 0) return `${plural(changed, 'finding')} in it.`;
  return repacked === 0
    ? 'Packed otherwise: the same entries with the same contents.'
    : `Packed otherwise: the same entries, ${plural(repacked, 'file')} repacked or moved.`;
}
