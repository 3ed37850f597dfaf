import {
  proposalSchema,
  readingSettingsSchema,
  type Proposal,
  type ReadingSettings,
  type SettingsChange,
} from '../../../contract/reading.ts';
import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { change, parseColumn, selectOne, type Queryable } from '../../platform/database/rows.ts';

/** Settings of a build that was read before builds had any: all of the source as it lies. */
const plainSettings: ReadingSettings = readingSettingsSchema.parse({ contentRoot: '' });

/** Settings as a column holds them. */
export function settingsOf(column: unknown): ReadingSettings {
  const value = parseColumn(column);
  return value === null ? plainSettings : readingSettingsSchema.parse(value);
}

/** What the next build of a channel would be read from, and how; null where it has none yet. */
export async function proposeNext(database: Queryable, channelId: number): Promise<Proposal | null> {
  const channel = await selectOne<{ settings: unknown }>(
    database,
    'SELECT settings FROM channels WHERE id = ?',
    [channelId],
  );
  const kept = parseColumn(channel?.settings ?? null);
  if (kept !== null) return proposalSchema.parse(kept);
  const newest = await selectOne<{ source: string }>(
    database,
    'SELECT source FROM builds WHERE channel_id = ? AND sequence IS NOT NULL ORDER BY sequence DESC LIMIT 1',
    [channelId],
  );
  return newest ? { source: newest.source, settings: plainSettings } : null;
}

/** Settings for a build: what somebody says, over what the channel's build before had. */
export function joinSettings(before: ReadingSettings | null, said: SettingsChange): ReadingSettings {
  return readingSettingsSchema.parse({
    ...before,
    // A root that somebody says is theirs, even where it is the one that was found.
    isRootFound: said.contentRoot === undefined && (before?.isRootFound ?? false),
    ...Object.fromEntries(Object.entries(said).filter(([, value]) => value !== undefined)),
  });
}

/**
 * Says which version of a format sheet files of a build are tried with first; null for the newest. The next build has it too
 * where this is the newest one.
 */
export async function setFormatVersion(
  pool: Pool,
  { id, channelId }: { id: number; channelId: number },
  sheet: string,
  version: string | null,
): Promise<void> {
  await inTransaction(pool, async (connection) => {
    const row = await selectOne<{ settings: unknown; source: string; isNewest: number }>(
      connection,
      `SELECT b.settings, b.source, b.sequence = (SELECT MAX(o.sequence) FROM builds o WHERE o.channel_id = b.channel_id) AS isNewest
         FROM builds b WHERE b.id = ? FOR UPDATE`,
      [id],
    );
    if (!row) throw new NotFoundError(`There is no build ${id}.`);
    const before = settingsOf(row.settings);
    const formatVersions = { ...before.formatVersions };
    if (version === null) delete formatVersions[sheet];
    else formatVersions[sheet] = version;
    const settings = readingSettingsSchema.parse({ ...before, formatVersions });
    if (row.isNewest === 1) await keepSettings(connection, channelId, id, row.source, settings);
    else
      await change(connection, 'UPDATE builds SET settings = ? WHERE id = ?', [JSON.stringify(settings), id]);
  });
}

/** Keeps a build's settings, and proposes them for the next one. */
export async function keepSettings(
  database: Queryable,
  channelId: number,
  buildId: number,
  source: string,
  settings: ReadingSettings,
): Promise<void> {
  await change(database, 'UPDATE builds SET settings = ? WHERE id = ?', [JSON.stringify(settings), buildId]);
  await change(database, 'UPDATE channels SET settings = ? WHERE id = ?', [
    JSON.stringify({ source, settings } satisfies Proposal),
    channelId,
  ]);
}
