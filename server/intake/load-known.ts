import { formats } from '../../core/kinds/formats.ts';
import { select, type Queryable } from '../database/rows.ts';
import { KnownRecords } from '../store/known-records.ts';
import type { Known } from './messages.ts';
import { role } from './recorder.ts';
import { openEnd } from './write-build.ts';

/** What is known of a path: BLAKE3 of its packed bytes, hash of its content, format by number, whether by extension. */
export const knownPathBytes = 32 + 32 + 1 + 1;

/** Contents and paths of the channel's newest build: most of the next one's are among them. */
export async function loadKnown(database: Queryable, jobId: number): Promise<Known> {
  const rows = await select<{
    digest: Buffer;
    hash: Buffer | null;
    packed: Buffer | null;
    format: string;
    byExtension: number;
  }>(
    database,
    `SELECT s.path_digest AS digest, c.hash, s.packed_hash AS packed, s.format, s.by_extension AS byExtension
       FROM jobs j JOIN builds b ON b.id = j.build_id
       JOIN asset_spans s ON s.channel_id = b.channel_id AND s.last_sequence = ?
       LEFT JOIN contents c ON c.hash = s.hash AND s.role = ?
      WHERE j.id = ?`,
    [openEnd, role.file, jobId],
  );
  const formatNumbers = new Map<string, number>(formats.map(({ name }, index) => [name, index]));
  const paths = rows.map(({ digest, hash, packed, format, byExtension }) => {
    const value = Buffer.alloc(knownPathBytes);
    packed?.copy(value, 0);
    if (hash) {
      hash.copy(value, 32);
      value[64] = formatNumbers.get(format) ?? 0;
      value[65] = byExtension;
    }
    return { key: digest, value };
  });
  return {
    contents: KnownRecords.of(
      rows.flatMap(({ hash }) => (hash ? [{ key: hash }] : [])),
      32,
    ).memory,
    paths: KnownRecords.of(paths, 16, knownPathBytes).memory,
  };
}

export interface KnownContent {
  hash: Buffer;
  format: string;
  byExtension: boolean;
}

/** Hash, format and manner of a path's content, when its packed bytes are still the same; null otherwise. */
export function recallPacked(known: KnownRecords, digest: Buffer, packedHash: Buffer): KnownContent | null {
  const value = known.get(digest);
  return value && packedHash.equals(value.subarray(0, 32)) ? contentOf(value) : null;
}

/** The same, when the content itself is. */
export function recallContent(known: KnownRecords, digest: Buffer, hash: Buffer): KnownContent | null {
  const value = known.get(digest);
  return value && hash.equals(value.subarray(32, 64)) ? contentOf(value) : null;
}

function contentOf(value: Buffer): KnownContent | null {
  // Nothing but zeros where the path had no content.
  if (value.readBigUInt64LE(32) === 0n) return null;
  return {
    hash: Buffer.from(value.subarray(32, 64)),
    format: formats[value[64] ?? 0]?.name ?? 'binary',
    byExtension: value[65] === 1,
  };
}
