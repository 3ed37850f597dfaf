import { change, selectOne, type Queryable } from '../platform/database/rows.ts';
import { digestOf } from './hash.ts';

/** How something was made of a content. */
export interface Derivation {
  /** Hex hash of the content that it was made of. */
  source: string;
  /** What was done, such as `show`. */
  operation: string;
  /** All that the outcome hangs on beside the content, as text: format, settings, hashes of other files. */
  parameters: string;
  /** Version of the program that did it: what an older one made is made again. */
  version: number;
}

/** Hash of what was made; null where it was not. */
export async function findDerivative(
  database: Queryable,
  { source, operation, parameters, version }: Derivation,
): Promise<string | null> {
  const row = await selectOne<{ hash: Buffer }>(
    database,
    `SELECT hash FROM derivatives WHERE source_hash = ? AND operation = ? AND parameters_digest = ? AND version = ?`,
    [Buffer.from(source, 'hex'), operation, digestOf(parameters), version],
  );
  return row?.hash.toString('hex') ?? null;
}

export async function noteDerivative(
  database: Queryable,
  { source, operation, parameters, version }: Derivation,
  hash: Buffer,
): Promise<void> {
  await change(
    database,
    `REPLACE INTO derivatives (source_hash, operation, parameters_digest, version, hash) VALUES (?, ?, ?, ?, ?)`,
    [Buffer.from(source, 'hex'), operation, digestOf(parameters), version, hash],
  );
}
