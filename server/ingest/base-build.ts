import type { ReadingSettings } from '../../contract/reading.ts';
import { readersVersion } from '../../core/kinds/read.ts';
import { settingsOf } from '../acquire/builds/settings.ts';
import { selectOne, type Queryable } from '../platform/database/rows.ts';

/** The newest build of a channel: what the next one is a difference to. */
export interface BaseBuild {
  id: number;
  sequence: number;
  source: string;
  settings: ReadingSettings;
  /** Names its present state: another one after it was indexed again. */
  key: string;
  /** Whether its facts were all read by the readers of today. */
  isUpToDate: boolean;
}

export async function findBase(database: Queryable, channelId: number): Promise<BaseBuild | null> {
  const row = await selectOne<{
    id: number;
    sequence: number;
    source: string;
    indexedAt: Date;
    version: number;
    settings: unknown;
  }>(
    database,
    `SELECT id, sequence, source, indexed_at AS indexedAt, readers_version AS version, settings FROM builds
      WHERE channel_id = ? AND sequence IS NOT NULL ORDER BY sequence DESC LIMIT 1`,
    [channelId],
  );
  if (!row) return null;
  const { id, sequence, source, indexedAt, version, settings } = row;
  return {
    id,
    sequence,
    source,
    settings: settingsOf(settings),
    key: `${id} ${indexedAt.toISOString()}`,
    isUpToDate: version === readersVersion,
  };
}
