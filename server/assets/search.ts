import type { SearchHit } from '../../contract/assets.ts';
import { formatOf } from '../../core/kinds/formats.ts';
import { containing, hex, select, type Queryable } from '../database/rows.ts';
import { role } from '../builds/spans.ts';

export interface SearchOptions {
  channelIds: readonly number[];
  /** One build; null looks through all, and shows each path in the newest build that has it. */
  sequence: number | null;
  query: string;
  limit: number;
}

/**
 * Paths that hold every word of the query, in any order and in any case.
 * @returns sorted by path
 */
export async function searchPaths(
  database: Queryable,
  { channelIds, sequence, query, limit }: SearchOptions,
): Promise<SearchHit[]> {
  const words = query.split(/\s+/).filter((word) => word !== '');
  if (words.length === 0 || channelIds.length === 0) return [];
  const matches = words.map(() => 'p.path LIKE ? COLLATE utf8mb4_general_ci').join(' AND ');
  const inBuild = sequence === null ? '' : 'AND s.first_sequence <= ? AND s.last_sequence >= ?';
  const rows = await select<{
    path: string;
    build: string;
    format: string;
    size: number | null;
    hash: Buffer | null;
  }>(
    database,
    `SELECT p.path, b.label AS build, s.format, s.size, s.hash FROM paths p
       JOIN asset_spans s ON s.path_digest = p.digest
       JOIN builds b ON b.channel_id = s.channel_id AND b.sequence = ${sequence === null ? newestOfSpan : '?'}
      WHERE s.channel_id IN (?) AND s.role = ? ${inBuild} AND ${matches}
        ${sequence === null ? isNewestSpan : ''}
      ORDER BY p.path LIMIT ?`,
    [
      ...(sequence === null ? [] : [sequence]),
      channelIds,
      role.file,
      ...(sequence === null ? [] : [sequence, sequence]),
      ...words.map(containing),
      limit,
    ],
  );
  return rows.map((row) => ({
    path: row.path,
    build: row.build,
    kind: formatOf(row.format).kind,
    size: row.size,
    hash: hex(row.hash),
  }));
}

const newestOfSpan = `(SELECT MAX(n.sequence) FROM builds n WHERE n.channel_id = s.channel_id AND n.sequence <= s.last_sequence)`;
const isNewestSpan = `AND NOT EXISTS (SELECT 1 FROM asset_spans l WHERE l.channel_id = s.channel_id
  AND l.path_digest = s.path_digest AND l.first_sequence > s.last_sequence)`;
