import { factsSchema, type Facts } from '../../../contract/facts.ts';
import { findReading, resourcesSchema } from '../../decode/readings.ts';
import { parseColumn, select, selectOne, type Queryable } from '../../platform/database/rows.ts';

export interface KnownFacts {
  facts: Facts | null;
  reason: string | null;
  previewHash: string | null;
  /** Files that the content names, relative to itself. */
  references: string[];
  /** Contents of those that were there when it was read, as hex. */
  resources: string[];
  /** Of the decoded content, as hex; null where nothing was decoded. */
  fingerprint: string | null;
}

interface FactsRow {
  facts: unknown;
  reason: string | null;
  previewHash: Buffer | null;
  resources: unknown;
  fingerprint: Buffer | null;
}

const factsColumns = 'facts, reason, preview_hash AS previewHash, resources, fingerprint';

function factsOf({ facts, reason, previewHash, resources, fingerprint }: FactsRow): KnownFacts {
  const said = parseColumn(facts);
  const named = resourcesSchema.parse(parseColumn(resources) ?? []);
  return {
    facts: said === null ? null : factsSchema.parse(said),
    reason,
    previewHash: previewHash?.toString('hex') ?? null,
    fingerprint: fingerprint?.toString('hex') ?? null,
    references: named.map(([reference]) => reference),
    resources: named.flatMap(([, hash]) => hash ?? []),
  };
}

/** Facts of a content as it was read with the files that it names in a build; null where it never was. */
export async function findFactsWith(
  database: Queryable,
  hash: string,
  format: string,
  find: (reference: string) => Promise<string | null>,
): Promise<KnownFacts | null> {
  const digest = await findReading(database, hash, format, find);
  const row =
    digest &&
    (await selectOne<FactsRow>(
      database,
      `SELECT ${factsColumns} FROM readings WHERE hash = ? AND format = ? AND resources_digest = ?`,
      [Buffer.from(hash, 'hex'), format, digest],
    ));
  return row ? factsOf(row) : null;
}

/** Facts of contents, by `hash format`; those of which none are known are left out. */
export async function findFacts(
  database: Queryable,
  contents: readonly { hash: string | null; format: string }[],
): Promise<Map<string, KnownFacts>> {
  const known = new Map<string, KnownFacts>();
  const hashes = [...new Set(contents.flatMap(({ hash }) => (hash === null ? [] : [hash])))];
  for (let from = 0; from < hashes.length; from += 1000) {
    const rows = await select<FactsRow & { hash: Buffer; format: string }>(
      database,
      `SELECT hash, format, ${factsColumns} FROM content_facts WHERE hash IN (?)`,
      [hashes.slice(from, from + 1000).map((hash) => Buffer.from(hash, 'hex'))],
    );
    for (const row of rows) known.set(factsKey(row.hash.toString('hex'), row.format), factsOf(row));
  }
  return known;
}

export function factsKey(hash: string | null, format: string): string {
  return `${hash ?? ''} ${format}`;
}
