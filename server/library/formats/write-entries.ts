import { intakeResultSchema } from '../../../contract/builds.ts';
import { startReading } from '../../acquire/builds/reading-state.ts';
import { countBuild } from '../../ingest/write-build.ts';
import { bulkLoad, type BulkTable } from '../../platform/database/bulk-load.ts';
import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { change, parseColumn, select, selectOne, type Value } from '../../platform/database/rows.ts';
import { pathDigest } from '../../store/hash.ts';

/** A container as it was through some builds of its channel. */
export interface ContainerSpan {
  path: string;
  unit: string;
  unitDigest: Buffer;
  first: number;
  last: number;
  hash: Buffer;
  format: string;
}

/** What came out of a container, and through which builds it is the same. */
export interface EntrySpan {
  digest: Buffer;
  first: number;
  last: number;
  role: number;
  format: string;
  byExtension: number;
  size: number | null;
  hash: Buffer | null;
  targetDigest: Buffer | null;
}

export interface FoundProblem {
  digest: Buffer;
  path: string;
  reason: string;
  locked: number;
  first: number;
  last: number;
}

export interface Opened {
  entries: EntrySpan[];
  problems: FoundProblem[];
}

const spansTable: BulkTable = {
  table: 'asset_spans',
  columns: [
    ...[{ name: 'channel_id' }, { name: 'path_digest', binary: true }, { name: 'first_sequence' }],
    ...[{ name: 'last_sequence' }, { name: 'role' }, { name: 'format' }, { name: 'by_extension' }],
    ...[{ name: 'size' }, { name: 'hash', binary: true }, { name: 'target_digest', binary: true }],
    { name: 'unit_digest', binary: true },
  ],
  onDuplicate: 'replace',
};

/** Puts what is in a container in the place of what was in it before. @returns sequences of the builds that it is in */
export async function writeEntries(
  pool: Pool,
  channelId: number,
  spans: readonly ContainerSpan[],
  { entries, problems }: Opened,
  old: readonly Buffer[],
): Promise<number[]> {
  const [container] = spans;
  if (!container) return [];
  const { unitDigest, path } = container;
  return inTransaction(pool, async (connection) => {
    await selectOne(connection, 'SELECT id FROM channels WHERE id = ? FOR UPDATE', [channelId]);
    const all = await select<{ id: number; sequence: number }>(
      connection,
      'SELECT id, sequence FROM builds WHERE channel_id = ? AND sequence IS NOT NULL',
      [channelId],
    );
    const builds = all.filter(({ sequence }) =>
      spans.some(({ first, last }) => first <= sequence && sequence <= last),
    );
    const ids = builds.map(({ id }) => id);
    for (let from = 0; from < old.length; from += 1000) {
      const digests = old.slice(from, from + 1000);
      // In other builds it may have been an archive that everybody knows: what came out of that stays.
      for (const { first, last } of spans)
        await change(
          connection,
          `DELETE FROM asset_spans WHERE channel_id = ? AND path_digest IN (?) AND first_sequence BETWEEN ? AND ?`,
          [channelId, digests, first, last],
        );
      if (ids.length > 0)
        await change(connection, 'DELETE FROM problems WHERE build_id IN (?) AND path_digest IN (?)', [
          ids,
          digests,
        ]);
    }
    if (ids.length > 0)
      await change(connection, 'DELETE FROM problems WHERE build_id IN (?) AND path_digest = ?', [
        ...[ids, pathDigest(path)],
      ]);
    await bulkLoad(
      connection,
      spansTable,
      entries.map(({ digest, first, last, ...row }): Value[] => [
        ...[channelId, digest, first, last, row.role, row.format, row.byExtension],
        ...[row.size, row.hash, row.targetDigest, unitDigest],
      ]),
    );
    for (const { id, sequence } of builds)
      for (const { digest, reason, locked, first, last } of problems)
        if (first <= sequence && sequence <= last)
          await change(
            connection,
            'REPLACE INTO problems (build_id, path_digest, unit_digest, reason, locked) VALUES (?, ?, ?, ?, ?)',
            [id, digest, unitDigest, reason, locked],
          );
    return builds.map(({ sequence }) => sequence);
  });
}

/** Builds that hold something else now: their sums are made anew, and what came in is read. */
export async function refreshBuilds(
  pool: Pool,
  channelId: number,
  sequences: ReadonlySet<number>,
): Promise<void> {
  for (const sequence of [...sequences].sort((a, b) => b - a)) {
    const id = await inTransaction(pool, async (connection) => {
      const build = await selectOne<{ id: number; result: unknown }>(
        connection,
        'SELECT id, result FROM builds WHERE channel_id = ? AND sequence = ? FOR UPDATE',
        [channelId, sequence],
      );
      if (!build) return null;
      const result = {
        ...intakeResultSchema.parse(parseColumn(build.result)),
        ...(await countBuild(connection, channelId, sequence, build.id)),
      };
      await change(
        connection,
        'UPDATE builds SET indexed_at = NOW(3), facts_version = NULL, result = ? WHERE id = ?',
        [JSON.stringify(result), build.id],
      );
      return build.id;
    });
    if (id !== null) await startReading(pool, id);
  }
}
