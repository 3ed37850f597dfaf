import { formats } from '../../core/kinds/formats.ts';
import { select, type Queryable } from '../database/rows.ts';
import { KnownRecords } from '../store/known-records.ts';
import type { IntakeWorkerData } from './messages.ts';
import { role } from './recorder.ts';
import { openEnd } from './write-build.ts';

/** What is known of a path: BLAKE3 of its packed bytes, hash of its content, format by number, whether by extension. */
export const knownPathBytes = 32 + 32 + 1 + 1;

/** Contents and paths of the channel's newest build: most of the next one's are among them. */
export async function loadKnown(
  database: Queryable,
  jobId: number,
): Promise<Pick<IntakeWorkerData, 'knownContents' | 'knownPaths'>> {
  const rows = await select<{ digest: Buffer; hash: Buffer | null; packed: Buffer | null; format: string; byExtension: number }>(
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
    if (packed && hash) {
      packed.copy(value, 0);
      hash.copy(value, 32);
      value[64] = formatNumbers.get(format) ?? 0;
      value[65] = byExtension;
    }
    return { key: digest, value };
  });
  return {
    knownContents: KnownRecords.of(rows.flatMap(({ hash }) => (hash ? [{ key: hash }] : [])), 32).memory,
    knownPaths: KnownRecords.of(paths, 16, knownPathBytes).memory,
  };
}

/** Hash, format and manner of a path's content, when its packed bytes are still the same; null otherwise. */
export function recallPacked(
  known: KnownRecords,
  digest: Buffer,
  packedHash: Buffer,
): { hash: Buffer; format: string; byExtension: boolean } | null {
  const value = known.get(digest);
  if (!value || !packedHash.equals(value.subarray(0, 32))) return null;
  return {
    hash: Buffer.from(value.subarray(32, 64)),
    format: formats[value[64] ?? 0]?.name ?? 'binary',
    byExtension: value[65] === 1,
  };
}
