import { openEnd } from '../acquire/builds/spans.ts';
import type { PoolConnection } from '../platform/database/pool.ts';
import { change, selectOne } from '../platform/database/rows.ts';

/**
 * Takes a build out of the line of builds: what only it had goes, and what its neighbours had is told of them alone. A span
 * begins with a build that is there, and ends just before one that is there (or not at all); both stay so.
 */
export async function closeGap(
  connection: PoolConnection,
  channelId: number,
  sequence: number,
): Promise<void> {
  const after = await selectOne<{ next: number | null }>(
    connection,
    'SELECT MIN(sequence) AS next FROM builds WHERE channel_id = ? AND sequence > ?',
    [channelId, sequence],
  );
  const next = after?.next ?? null;
  const end = next === null ? openEnd : next - 1;
  await change(
    connection,
    'DELETE FROM asset_spans WHERE channel_id = ? AND first_sequence = ? AND last_sequence <= ?',
    [channelId, sequence, end],
  );
  if (next !== null) {
    await change(
      connection,
      'UPDATE asset_spans SET first_sequence = ? WHERE channel_id = ? AND first_sequence = ?',
      [next, channelId, sequence],
    );
  } else {
    // The files' states are those of the build that was the newest.
    await change(connection, 'DELETE FROM source_files WHERE channel_id = ?', [channelId]);
  }
  await change(
    connection,
    'UPDATE asset_spans SET last_sequence = ? WHERE channel_id = ? AND last_sequence = ?',
    [end, channelId, sequence - 1],
  );
}
