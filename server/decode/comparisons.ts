import {
  comparisonSchema,
  type Compared,
  type Comparison,
  type Nature,
  type TextDetail,
} from '../../contract/comparisons.ts';
import { comparersVersion } from '../../core/kinds/compare.ts';
import { bulkLoad, type BulkTable } from '../platform/database/bulk-load.ts';
import type { Pool } from '../platform/database/pool.ts';
import { change, hex, select, selectOne, type Queryable, type Value } from '../platform/database/rows.ts';
import type { ContentStore } from '../store/content-store.ts';
import type { CompareOutcome } from './operations.ts';
import { hashOf } from '../store/hash.ts';

/** Two contents, each as what it was taken for. */
export interface ContentPair {
  oldHash: string;
  oldFormat: string;
  hash: string;
  format: string;
}

export function pairKey({ oldHash, oldFormat, hash, format }: ContentPair): string {
  return `${oldHash} ${oldFormat} ${hash} ${format}`;
}

/** What findings are judged by. */
export interface Judged {
  nature: Nature | null;
  extent: number;
  sentence: string;
  reason: string | null;
  picture: string | null;
}

const comparisonsTable: BulkTable = {
  table: 'comparisons',
  columns: [
    { name: 'new_hash', binary: true },
    { name: 'old_hash', binary: true },
    { name: 'new_format' },
    { name: 'old_format' },
    { name: 'comparers_version' },
    { name: 'nature' },
    { name: 'extent' },
    { name: 'sentence' },
    { name: 'result' },
    { name: 'reason' },
    { name: 'picture_hash', binary: true },
  ],
  onDuplicate: 'replace',
};

/** What is kept of pairs, without the details; pairs that were not compared are left out. */
export async function findJudged(
  database: Queryable,
  pairs: readonly ContentPair[],
): Promise<Map<string, Judged>> {
  const judged = new Map<string, Judged>();
  const hashes = [...new Set(pairs.map(({ hash }) => hash))];
  for (let from = 0; from < hashes.length; from += 1000) {
    const rows = await select<{
      hash: Buffer;
      oldHash: Buffer;
      format: string;
      oldFormat: string;
      nature: Nature | null;
      extent: number | null;
      sentence: string | null;
      reason: string | null;
      picture: Buffer | null;
    }>(
      database,
      `SELECT new_hash AS hash, old_hash AS oldHash, new_format AS format, old_format AS oldFormat, nature, extent,
          sentence, reason, picture_hash AS picture
         FROM comparisons WHERE new_hash IN (?) AND comparers_version = ?`,
      [hashes.slice(from, from + 1000).map((hash) => Buffer.from(hash, 'hex')), comparersVersion],
    );
    for (const row of rows) {
      const key = pairKey({ ...row, hash: row.hash.toString('hex'), oldHash: row.oldHash.toString('hex') });
      judged.set(key, {
        nature: row.nature,
        extent: row.extent ?? 0,
        sentence: row.sentence ?? '',
        reason: row.reason,
        picture: hex(row.picture),
      });
    }
  }
  return judged;
}

/** All that comparing measured, by pair, without those that were not compared. */
export async function findMeasured(
  database: Queryable,
  pairs: readonly ContentPair[],
): Promise<Map<string, Pick<Comparison, 'figures' | 'detail'>>> {
  const measured = new Map<string, Pick<Comparison, 'figures' | 'detail'>>();
  for (let from = 0; from < pairs.length; from += 500) {
    const rows = await select<{
      hash: Buffer;
      oldHash: Buffer;
      format: string;
      oldFormat: string;
      result: string;
    }>(
      database,
      `SELECT new_hash AS hash, old_hash AS oldHash, new_format AS format, old_format AS oldFormat, result
         FROM comparisons WHERE new_hash IN (?) AND comparers_version = ? AND result IS NOT NULL`,
      [pairs.slice(from, from + 500).map(({ hash }) => Buffer.from(hash, 'hex')), comparersVersion],
    );
    for (const { result, ...row } of rows) {
      const { figures, detail } = comparisonSchema.parse(JSON.parse(result));
      const key = pairKey({ ...row, hash: row.hash.toString('hex'), oldHash: row.oldHash.toString('hex') });
      measured.set(key, { figures, detail });
    }
  }
  return measured;
}

/** Details of texts among pairs, without those that were not compared. */
export async function findTexts(
  database: Queryable,
  pairs: readonly ContentPair[],
): Promise<Map<string, TextDetail>> {
  const texts = new Map<string, TextDetail>();
  for (const [key, { detail }] of await findMeasured(database, pairs))
    if (detail?.kind === 'text') texts.set(key, detail);
  return texts;
}

/** All that is kept of one pair; null where it was not compared. */
export async function findCompared(
  database: Queryable,
  { oldHash, oldFormat, hash, format }: ContentPair,
): Promise<Compared | null> {
  const row = await selectOne<{ result: string | null; reason: string | null; picture: Buffer | null }>(
    database,
    `SELECT result, reason, picture_hash AS picture FROM comparisons
      WHERE new_hash = ? AND old_hash = ? AND new_format = ? AND old_format = ? AND comparers_version = ?`,
    [Buffer.from(hash, 'hex'), Buffer.from(oldHash, 'hex'), format, oldFormat, comparersVersion],
  );
  return (
    row && {
      comparison: row.result === null ? null : comparisonSchema.parse(JSON.parse(row.result)),
      reason: row.reason,
      picture: hex(row.picture),
    }
  );
}

/** What was found out by comparing such contents may be otherwise now: it is found out again. */
export async function forgetComparisons(pool: Pool, contents: readonly string[]): Promise<void> {
  const hashes = [...new Set(contents)].map((hash) => Buffer.from(hash, 'hex'));
  for (let from = 0; from < hashes.length; from += 500) {
    const some = hashes.slice(from, from + 500);
    await change(pool, 'DELETE FROM comparisons WHERE new_hash IN (?)', [some]);
    await change(pool, 'DELETE FROM comparisons WHERE old_hash IN (?)', [some]);
  }
}

/** Writes down what comparing found out, and stores the pictures. */
export async function keepCompared(
  pool: Pool,
  store: ContentStore,
  outcomes: readonly (ContentPair & { outcome: CompareOutcome })[],
): Promise<void> {
  const pictures = new Map<string, { hash: Buffer; bytes: Uint8Array }>();
  const rows = outcomes.map(({ outcome: { compared, reason }, ...pair }): Value[] => {
    const picture = compared?.picture ?? null;
    const pictureHash = picture && hashOf(picture);
    if (picture && pictureHash)
      pictures.set(pictureHash.toString('hex'), { hash: pictureHash, bytes: picture });
    const comparison = compared?.comparison ?? null;
    return [
      Buffer.from(pair.hash, 'hex'),
      Buffer.from(pair.oldHash, 'hex'),
      pair.format,
      pair.oldFormat,
      comparersVersion,
      comparison?.nature ?? null,
      comparison?.extent ?? null,
      comparison?.sentence ?? null,
      comparison && JSON.stringify(comparison),
      reason,
      pictureHash,
    ];
  });
  // The rows first: what they name is not freed, not even by a job that frees contents at this moment.
  await bulkLoad(pool, comparisonsTable, rows);
  await store.putMany(pictures.values());
}
