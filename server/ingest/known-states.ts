import { formats } from '../../core/kinds/formats.ts';
import { openEnd } from '../acquire/builds/spans.ts';
import type { Pool } from '../platform/database/pool.ts';
import { change, select, selectOne } from '../platform/database/rows.ts';

/**
 * A record's value, as the database puts it together: packed hash, hash, digest of a link's target, size (64 bits, big
 * endian, all ones for none), role, manner, number of the format from 1; then the slot of the unit's own record.
 */
export const packedAt = 0;
export const hashAt = 32;
export const targetAt = 64;
export const sizeAt = 80;
export const roleAt = 88;
export const byExtensionAt = 89;
export const formatAt = 90;
export const unitAt = 91;
export const valueBytes = 95;
export const digestBytes = 16;

export const nothing = Buffer.alloc(32);
export const noDigest = nothing.subarray(0, 16);
export const noSize = 2n ** 64n - 1n;

/** A state as it comes: the path's digest, then its value, with the unit's digest in the place of its slot. */
export const stateBytes = digestBytes + unitAt + digestBytes;
export const sourceBytes = 2 * digestBytes;

/** Many records to a row: a row and field each took ten times as long. */
type Packed = { records: Buffer | null }[];

/** Records that one row holds, about. */
const recordsPerRow = 20_000;

export async function loadStates(database: Pool, channelId: number): Promise<Packed> {
  const isOpen = 's.channel_id = ? AND s.last_sequence = ?';
  const total = await selectOne<{ count: number }>(
    database,
    `SELECT COUNT(*) AS count FROM asset_spans s WHERE ${isOpen}`,
    [channelId, openEnd],
  );
  // A content that the store has lost counts as unknown, so that it is stored again.
  return loadPacked(
    database,
    `SELECT GROUP_CONCAT(CONCAT(s.path_digest, COALESCE(s.packed_hash, ?), IF(l.hash IS NULL, COALESCE(s.hash, ?), ?),
         COALESCE(s.target_digest, ?), UNHEX(LPAD(HEX(COALESCE(s.size, ${noSize})), 16, '0')),
         UNHEX(LPAD(HEX(s.role * 65536 + s.by_extension * 256 + FIELD(s.format, ?)), 6, '0')), s.unit_digest)
         SEPARATOR '') AS records
       FROM asset_spans s LEFT JOIN lost_contents l ON l.hash = s.hash
      WHERE ${isOpen} AND s.path_digest BETWEEN ? AND ?`,
    [nothing, nothing, nothing, noDigest, formats.map(({ name }) => name), channelId, openEnd],
    total?.count ?? 0,
  );
}

export async function loadSources(database: Pool, channelId: number): Promise<Packed> {
  const total = await selectOne<{ count: number }>(
    database,
    'SELECT COUNT(*) AS count FROM source_files WHERE channel_id = ?',
    [channelId],
  );
  return loadPacked(
    database,
    `SELECT GROUP_CONCAT(CONCAT(f.path_digest, f.signature) SEPARATOR '') AS records FROM source_files f
      WHERE f.channel_id = ? AND f.path_digest BETWEEN ? AND ?`,
    [channelId],
    total?.count ?? 0,
  );
}

/** Files of the source that are read even if they are the same: where something could not be read, or has been lost. */
export async function loadUnitsToRead(
  database: Pool,
  channelId: number,
  buildId: number,
): Promise<{ digest: Buffer }[]> {
  return select(
    database,
    `SELECT q.unit_digest AS digest FROM problems q WHERE q.build_id = ?
      UNION SELECT s.unit_digest FROM lost_contents l JOIN asset_spans s ON s.hash = l.hash AND s.channel_id = ?
        WHERE s.last_sequence = ?`,
    [buildId, channelId, openEnd],
  );
}

/** Asks for one range of digests after the other: grouping them in one question made the database sort all records. */
async function loadPacked(
  database: Pool,
  sql: string,
  values: NonNullable<Parameters<typeof select>[2]>,
  total: number,
): Promise<Packed> {
  const connection = await database.getConnection();
  const packed: Packed = [];
  try {
    await change(connection, 'SET SESSION group_concat_max_len = 1073741824');
    const ranges = Math.min(256, Math.ceil(total / recordsPerRow));
    for (let range = 0; range < ranges; range++) {
      const low = Buffer.alloc(digestBytes);
      low[0] = Math.ceil((range * 256) / ranges);
      const high = Buffer.alloc(digestBytes, 0xff);
      high[0] = Math.ceil(((range + 1) * 256) / ranges) - 1;
      packed.push(...(await select<Packed[number]>(connection, sql, [...values, low, high])));
    }
    return packed;
  } finally {
    connection.release();
  }
}

export function count(packed: Packed, recordBytes: number): number {
  return packed.reduce((sum, { records: bytes }) => sum + (bytes?.length ?? 0) / recordBytes, 0);
}

export function* records(packed: Packed, recordBytes: number): Generator<{ bytes: Buffer; at: number }> {
  for (const { records: bytes } of packed) {
    if (!bytes) continue;
    for (let at = 0; at < bytes.length; at += recordBytes) yield { bytes, at };
  }
}
