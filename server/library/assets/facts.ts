import * as z from 'zod';
import { factsSchema, type Facts } from '../../../contract/facts.ts';
import { parseColumn, select, type Queryable } from '../../platform/database/rows.ts';

/** [reference, hash of what was there or null] of each file that was read along with a content. */
export const resourcesSchema = z.array(z.tuple([z.string(), z.string().nullable()]));

export interface KnownFacts {
  facts: Facts | null;
  reason: string | null;
  previewHash: string | null;
  /** Files that the content names, relative to itself. */
  references: string[];
}

/** Facts of contents, by `hash format`; those of which none are known are left out. */
export async function findFacts(
  database: Queryable,
  contents: readonly { hash: string | null; format: string }[],
): Promise<Map<string, KnownFacts>> {
  const known = new Map<string, KnownFacts>();
  const hashes = [...new Set(contents.flatMap(({ hash }) => (hash === null ? [] : [hash])))];
  for (let from = 0; from < hashes.length; from += 1000) {
    const rows = await select<{
      hash: Buffer;
      format: string;
      facts: unknown;
      reason: string | null;
      previewHash: Buffer | null;
      resources: unknown;
    }>(
      database,
      'SELECT hash, format, facts, reason, preview_hash AS previewHash, resources FROM content_facts WHERE hash IN (?)',
      [hashes.slice(from, from + 1000).map((hash) => Buffer.from(hash, 'hex'))],
    );
    for (const row of rows) {
      const facts = parseColumn(row.facts);
      known.set(factsKey(row.hash.toString('hex'), row.format), {
        facts: facts === null ? null : factsSchema.parse(facts),
        reason: row.reason,
        previewHash: row.previewHash?.toString('hex') ?? null,
        references: resourcesSchema.parse(parseColumn(row.resources) ?? []).map(([reference]) => reference),
      });
    }
  }
  return known;
}

export function factsKey(hash: string | null, format: string): string {
  return `${hash ?? ''} ${format}`;
}
