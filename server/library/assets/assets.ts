import type { Asset } from '../../../contract/assets.ts';
import { formatOf } from '../../../core/kinds/formats.ts';
import { hasReader } from '../../../core/kinds/read.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { hex, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { role } from '../../acquire/builds/spans.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { pathDigest } from '../../store/hash.ts';
import { factsKey, findFacts, findFactsWith, type KnownFacts } from './facts.ts';
import type { FindFile } from '../references/find-file.ts';
import { historyOf } from './history.ts';

interface SpanRow {
  format: string;
  byExtension: number;
  size: number | null;
  hash: Buffer | null;
}

/** What lies at a path of a build; null where there is no file. */
export async function findAt(
  database: Queryable,
  build: PlacedBuild,
  path: string,
): Promise<{ format: string; byExtension: boolean; size: number | null; hash: string | null } | null> {
  const span = await selectOne<SpanRow>(
    database,
    `SELECT format, by_extension AS byExtension, size, hash FROM asset_spans
      WHERE channel_id = ? AND path_digest = ? AND first_sequence <= ? AND last_sequence >= ? AND role = ?`,
    [build.channelId, pathDigest(path), build.sequence, build.sequence, role.file],
  );
  return span && { ...span, byExtension: span.byExtension === 1, hash: hex(span.hash) };
}

/** One asset of a build with all that is known of it. @throws NotFoundError */
export async function findAsset(
  database: Queryable,
  build: PlacedBuild,
  path: string,
  findFile: FindFile,
): Promise<Asset> {
  const span = await findAt(database, build, path);
  if (!span) throw new NotFoundError(`The build ${build.label} has no asset at ${path}.`);
  const { hash } = span;
  const newest = (await findFacts(database, [{ hash, format: span.format }])).get(
    factsKey(hash, span.format),
  );
  const known = newest && (await knownHere(database, findFile, path, { hash, format: span.format }, newest));
  const problem = await selectOne<{ reason: string }>(
    database,
    'SELECT reason FROM problems WHERE build_id = ? AND path_digest = ?',
    [build.id, pathDigest(path)],
  );
  return {
    path,
    build: build.label,
    kind: formatOf(span.format).kind,
    format: span.format,
    size: span.size,
    hash,
    hasPreview: (known?.previewHash ?? null) !== null,
    facts: known?.facts ?? null,
    isUnread: hash !== null && !known && hasReader(span.format),
    problem: problem?.reason ?? known?.reason ?? null,
    identifiedByExtension: span.byExtension,
    history: await historyOf(database, build.channelId, path),
    elsewhere: (hash === null ? [] : await pathsOfContent(database, build, hash)).filter(
      (other) => other !== path,
    ),
  };
}

/**
 * What is known of a content beside the files of this build: what it names may be other ones in the next. Where a person
 * linked one since it was read, it is known at least what is missing.
 */
async function knownHere(
  database: Queryable,
  findFile: FindFile,
  path: string,
  { hash, format }: { hash: string | null; format: string },
  newest: KnownFacts,
): Promise<KnownFacts> {
  const { facts, references } = newest;
  if (references.length === 0 || hash === null) return newest;
  const find = (reference: string): Promise<string | null> => findFile(path, reference);
  const known = await findFactsWith(database, hash, format, find);
  if (known) return known;
  if (facts?.kind !== 'model') return newest;
  const missing: string[] = [];
  for (const reference of references) if ((await find(reference)) === null) missing.push(reference);
  return { ...newest, facts: { ...facts, missing } };
}

/** Where a content lies in a build, fifty paths at most. @param hash 64 hex digits */
export async function pathsOfContent(
  database: Queryable,
  build: PlacedBuild,
  hash: string,
): Promise<string[]> {
  const rows = await select<{ path: string }>(
    database,
    `SELECT p.path FROM asset_spans s FORCE INDEX (spans_by_hash) JOIN paths p ON p.digest = s.path_digest
      WHERE s.hash = ? AND s.channel_id = ? AND s.first_sequence <= ? AND s.last_sequence >= ? AND s.role = ?
      ORDER BY p.path LIMIT 50`,
    [Buffer.from(hash, 'hex'), build.channelId, build.sequence, build.sequence, role.file],
  );
  return rows.map(({ path }) => path);
}
