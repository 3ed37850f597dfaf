import { formats, hangsOnFiles } from '../../core/kinds/formats.ts';
import { hasReader, readersVersion } from '../../core/kinds/read.ts';
import type { PlacedBuild } from '../acquire/builds/builds.ts';
import { role } from '../acquire/builds/spans.ts';
import { digestRangesFor } from '../platform/database/digest-ranges.ts';
import { parseColumn, select, type Queryable, type Value } from '../platform/database/rows.ts';
import type { FindFile } from './read-facts.ts';
import { findReading, isSame, resourcesSchema, restoreReading } from './readings.ts';

/** A content whose facts are to be read. */
export interface Unread {
  /** In hex. */
  hash: string;
  format: string;
  /** One of the paths at which it lies. */
  path: string;
  /** At how many paths. */
  files: number;
}

/** Spans of a channel, as a condition on `s`, in the order in which people want to know about them. */
export interface SpanGroup {
  where: string;
  values: readonly Value[];
}

const readable: string[] = formats.filter(({ name }) => hasReader(name)).map(({ name }) => name);
const naming = readable.filter(hangsOnFiles);

/**
 * What a build and its update are made of: first what is new or changed, and what that took the place of; then the rest, where
 * the build before was not read to its end either.
 */
export function groupsOf(build: PlacedBuild, before: PlacedBuild | null): SpanGroup[] {
  const { channelId, sequence } = build;
  const begun = {
    where: 's.channel_id = ? AND s.first_sequence = ?',
    values: [channelId, sequence],
  };
  const groups: SpanGroup[] = [begun];
  if (before) {
    groups.push({
      where: 's.channel_id = ? AND s.last_sequence >= ? AND s.last_sequence < ?',
      values: [channelId, before.sequence, sequence],
    });
    if (before.factsVersion !== readersVersion)
      groups.push({
        where: 's.channel_id = ? AND s.first_sequence < ? AND s.last_sequence >= ?',
        values: [channelId, sequence, sequence],
      });
  }
  return groups;
}

const filesWithReaders = `FROM asset_spans s LEFT JOIN content_facts f ON f.hash = s.hash AND f.format = s.format AND f.readers_version = ?
  WHERE s.role = ? AND s.hash IS NOT NULL AND s.format IN (?)`;
const notYetRead = `${filesWithReaders} AND f.hash IS NULL`;

/** How many files of a group there are readers for, and how many of these have no facts yet. */
export async function countUnread(
  database: Queryable,
  { where, values }: SpanGroup,
): Promise<{ files: number; unread: number }> {
  const [row] = await select<{ files: number; unread: number | null }>(
    database,
    `SELECT COUNT(*) AS files, SUM(f.hash IS NULL) AS unread ${filesWithReaders} AND ${where}`,
    [readersVersion, role.file, readable, ...values],
  );
  return { files: row?.files ?? 0, unread: Number(row?.unread ?? 0) };
}

/**
 * The contents of a group that have no facts yet; of very many a part of all paths after the other, since a million at once
 * would take too much.
 */
export async function* findUnread(
  database: Queryable,
  { where, values }: SpanGroup,
  unread: number,
): AsyncGenerator<Unread[]> {
  for (const [low, high] of digestRangesFor(unread)) {
    const rows = await select<{ hash: Buffer; format: string; path: string; files: number }>(
      database,
      `SELECT u.hash, u.format, u.files, p.path FROM (
         SELECT s.hash, s.format, COUNT(*) AS files, MIN(s.path_digest) AS digest ${notYetRead} AND ${where}
            AND s.path_digest BETWEEN ? AND ? GROUP BY s.hash, s.format) u
         JOIN paths p ON p.digest = u.digest ORDER BY p.path`,
      [readersVersion, role.file, readable, ...values, low, high],
    );
    yield rows.map((row) => ({ ...row, hash: row.hash.toString('hex') }));
  }
}

/**
 * The contents of a build that were read with files that are other ones in this build, and never with these. What was read with
 * these before is made the newest.
 * @param isNewest whether it is the channel's newest build: of older ones it is enough that a reading is there
 */
export async function findStale(
  database: Queryable,
  { channelId, sequence }: PlacedBuild,
  findFile: FindFile,
  isNewest: boolean,
): Promise<Unread[]> {
  const rows = await select<{ hash: Buffer; format: string; path: string; resources: unknown }>(
    database,
    `SELECT s.hash, s.format, p.path, f.resources FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
       JOIN content_facts f ON f.hash = s.hash AND f.format = s.format AND f.readers_version = ?
      WHERE s.channel_id = ? AND s.first_sequence <= ? AND s.last_sequence >= ? AND s.role = ? AND s.format IN (?)
        AND f.resources IS NOT NULL`,
    [readersVersion, channelId, sequence, sequence, role.file, naming],
  );
  const stale: Unread[] = [];
  for (const { hash, format, path, resources } of rows) {
    const find = (reference: string): Promise<string | null> => findFile(path, reference);
    if (await isSame(resourcesSchema.parse(parseColumn(resources)), find)) continue;
    const item = { hash: hash.toString('hex'), format, path, files: 1 };
    const known = await findReading(database, item.hash, format, find);
    if (!known) stale.push(item);
    else if (isNewest) await restoreReading(database, item.hash, format, known);
  }
  return stale;
}
