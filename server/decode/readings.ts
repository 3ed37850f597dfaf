import * as z from 'zod';
import { bulkLoad, type BulkTable } from '../platform/database/bulk-load.ts';
import { change, parseColumn, select, type Queryable, type Value } from '../platform/database/rows.ts';
import { readersVersion } from '../../core/kinds/read.ts';
import { digestOf } from '../store/hash.ts';

/** [reference, hash of what was there or null] of each file that was read along with a content. */
export const resourcesSchema = z.array(z.tuple([z.string(), z.string().nullable()]));
export type Resources = z.infer<typeof resourcesSchema>;

const columns = [
  { name: 'hash', binary: true },
  { name: 'format' },
  { name: 'readers_version' },
  { name: 'facts' },
  { name: 'reason' },
  { name: 'preview_hash', binary: true },
  { name: 'resources' },
  { name: 'fingerprint', binary: true },
  { name: 'signature', binary: true },
  { name: 'mentions' },
] as const;
const names = columns.map(({ name }) => name).join(', ');

/** A row of what was read: values in the order of the columns above. */
export type ReadingRow = Value[];

/** What was read of each content last. */
const newest: BulkTable = { table: 'content_facts', columns, onDuplicate: 'replace' };

/** What was read of those that name others, each time that these were other ones. */
const byResources: BulkTable = {
  table: 'readings',
  columns: [...columns, { name: 'resources_digest', binary: true }],
  onDuplicate: 'replace',
};

/**
 * Keeps what was read: of a content that names others, beside what was read of it with other ones.
 * @param isNewest whether it was read for a channel's newest build: what was read for an older one does not take the place of that
 */
export async function keepReadings(
  database: Queryable,
  rows: readonly { values: ReadingRow; resources: Resources }[],
  isNewest = true,
): Promise<void> {
  const known = isNewest ? new Set<string>() : await readAlready(database, rows);
  await bulkLoad(
    database,
    newest,
    rows.filter(({ values }) => !known.has(keyOf(values))).map(({ values }) => values),
  );
  await bulkLoad(
    database,
    byResources,
    rows
      .filter(({ resources }) => resources.length > 0)
      .map(({ values, resources }) => [...values, digestOf(JSON.stringify(resources))]),
  );
}

/** Hash and format: the first two columns. */
function keyOf([hash, format]: ReadingRow): string {
  return `${(hash as Buffer).toString('hex')} ${format as string}`;
}

/** Those that name others and that the readers of today have read before. */
async function readAlready(
  database: Queryable,
  rows: readonly { values: ReadingRow; resources: Resources }[],
): Promise<Set<string>> {
  const hashes = rows
    .filter(({ resources }) => resources.length > 0)
    .map(({ values }) => values[0] as Buffer);
  if (hashes.length === 0) return new Set();
  const known = await select<{ hash: Buffer; format: string }>(
    database,
    'SELECT hash, format FROM content_facts WHERE hash IN (?) AND readers_version = ?',
    [hashes, readersVersion],
  );
  return new Set(known.map(({ hash, format }) => keyOf([hash, format])));
}

/** Whether all that a content names is what it was when it was read. */
export async function isSame(
  resources: Resources,
  find: (reference: string) => Promise<string | null>,
): Promise<boolean> {
  const now = await Promise.all(resources.map(([reference]) => find(reference)));
  return resources.every(([, before], index) => before === now[index]);
}

/** What of a content was read with the files that it names now, as its key; null where it has to be read. */
export async function findReading(
  database: Queryable,
  hash: string,
  format: string,
  find: (reference: string) => Promise<string | null>,
): Promise<Buffer | null> {
  const rows = await select<{ digest: Buffer; resources: unknown }>(
    database,
    'SELECT resources_digest AS digest, resources FROM readings WHERE hash = ? AND format = ? AND readers_version = ?',
    [Buffer.from(hash, 'hex'), format, readersVersion],
  );
  for (const { digest, resources } of rows)
    if (await isSame(resourcesSchema.parse(parseColumn(resources)), find)) return digest;
  return null;
}

/** Makes what was read some time ago the newest. */
export async function restoreReading(
  database: Queryable,
  hash: string,
  format: string,
  digest: Buffer,
): Promise<void> {
  await change(
    database,
    `REPLACE INTO content_facts (${names}) SELECT ${names} FROM readings
      WHERE hash = ? AND format = ? AND resources_digest = ?`,
    [Buffer.from(hash, 'hex'), format, digest],
  );
}
