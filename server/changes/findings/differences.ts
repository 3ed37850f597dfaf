import type { Summary } from '../../../contract/findings.ts';
import { Choice } from '../../../core/containers/choice.ts';
import {
  contentsOfNewPaths,
  findDifferences,
  type Difference,
  type Leaf,
  type PlainFinding,
} from '../../../core/findings/find.ts';
import { formatOf } from '../../../core/kinds/formats.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { select, type Queryable } from '../../platform/database/rows.ts';
import { role } from '../../acquire/builds/spans.ts';

export interface Findings {
  findings: PlainFinding[];
  summary: Summary;
}

interface SpanRow {
  digest: Buffer;
  path: string;
  firstSequence: number;
  lastSequence: number;
  role: number;
  format: string;
  size: number | null;
  hash: Buffer | null;
  packedHash: Buffer | null;
  fingerprint: Buffer | null;
}

/**
 * What differs between two builds of a channel, in either direction. Reads only the spans that begin or end
 * between the two: the cost follows what changed and not what exists.
 */
export async function findBetween(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
): Promise<Findings> {
  const early = Math.min(from.sequence, to.sequence);
  const late = Math.max(from.sequence, to.sequence);
  const all = early === late ? [] : await readSpans(database, from.channelId, early, late);
  const spans = await withoutOpened(database, all, [from, to]);
  const paired = pairSpans(spans, from.sequence, to.sequence);
  const { differences, gone, leftOut } = withoutLeftOut(paired, from, to);
  const stillThere = await findStillThere(database, from, contentsOfNewPaths(differences), gone);
  const findings = findDifferences(differences, stillThere);
  const summary: Summary = {
    added: 0,
    removed: 0,
    changed: 0,
    moved: 0,
    copied: 0,
    repacked: 0,
    unchanged: 0,
    leftOut,
  };
  for (const { status } of findings) summary[status]++;
  summary.unchanged =
    to.files - summary.added - summary.changed - summary.moved - summary.copied - summary.repacked;
  return { findings, summary };
}

const columns = `s.path_digest AS digest, p.path, s.first_sequence AS firstSequence, s.last_sequence AS lastSequence,
  s.role, s.format, s.size, s.hash, s.packed_hash AS packedHash, f.fingerprint`;

async function readSpans(
  database: Queryable,
  channelId: number,
  early: number,
  late: number,
): Promise<SpanRow[]> {
  const join = `FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
    LEFT JOIN content_facts f ON f.hash = s.hash AND f.format = s.format WHERE s.channel_id = ?`;
  const [begun, ended] = await Promise.all([
    select<SpanRow>(
      database,
      `SELECT ${columns} ${join} AND s.first_sequence > ? AND s.first_sequence <= ?`,
      [channelId, early, late],
    ),
    select<SpanRow>(
      database,
      // Those that also begin in between are in the other half already.
      `SELECT ${columns} ${join} AND s.last_sequence >= ? AND s.last_sequence < ? AND s.first_sequence <= ?`,
      [channelId, early, late, early],
    ),
  ]);
  return [...begun, ...ended];
}

/** A container that a sheet opened is what is in it: that differs by itself. One that could not be opened is a file like any other. */
async function withoutOpened(
  database: Queryable,
  spans: SpanRow[],
  builds: readonly PlacedBuild[],
): Promise<SpanRow[]> {
  const containers = spans.filter(({ format }) => format === 'sheet-container');
  if (containers.length === 0) return spans;
  const rows = await select<{ digest: Buffer }>(
    database,
    'SELECT path_digest AS digest FROM problems WHERE build_id IN (?) AND path_digest IN (?)',
    [builds.map(({ id }) => id), containers.map(({ digest }) => digest)],
  );
  const closed = new Set(rows.map(({ digest }) => digest.toString('hex')));
  const opened = new Set(containers.filter(({ digest }) => !closed.has(digest.toString('hex'))));
  return spans.filter((span) => !opened.has(span));
}

function pairSpans(
  spans: readonly SpanRow[],
  from: number,
  to: number,
): { differences: Difference[]; gone: Set<string> } {
  const byPath = new Map<string, Difference>();
  const gone = new Set<string>();
  for (const span of spans) {
    if (span.role !== role.file) continue;
    const difference = byPath.get(span.path) ?? { old: null, new: null };
    if (span.firstSequence <= from && from <= span.lastSequence) difference.old = toLeaf(span);
    if (span.firstSequence <= to && to <= span.lastSequence) difference.new = toLeaf(span);
    byPath.set(span.path, difference);
  }
  for (const [path, difference] of byPath) if (difference.old && !difference.new) gone.add(path);
  return { differences: [...byPath.values()], gone };
}

/** What one of the builds leaves out is not known to be gone, or new. */
function withoutLeftOut(
  { differences, gone }: { differences: readonly Difference[]; gone: ReadonlySet<string> },
  from: PlacedBuild,
  to: PlacedBuild,
): { differences: Difference[]; gone: Set<string>; leftOut: number } {
  const [fromChoice, toChoice] = [new Choice(from.settings.choice), new Choice(to.settings.choice)];
  const known = differences.filter(({ old, new: now }) => {
    if (old && !now) return !toChoice.isLeftOut(old.path);
    if (now && !old) return !fromChoice.isLeftOut(now.path);
    return true;
  });
  return {
    differences: known,
    gone: new Set([...gone].filter((path) => !toChoice.isLeftOut(path))),
    leftOut: differences.length - known.length,
  };
}

function toLeaf(span: SpanRow): Leaf {
  return {
    path: span.path,
    hash: span.hash?.toString('hex') ?? null,
    packedHash: span.packedHash?.toString('hex') ?? null,
    fingerprint: span.fingerprint?.toString('hex') ?? null,
    size: span.size,
    kind: formatOf(span.format).kind,
    format: span.format,
  };
}

/** Paths of the old build that hold one of the contents and are there in the new build too. */
async function findStillThere(
  database: Queryable,
  from: PlacedBuild,
  hashes: readonly string[],
  gone: ReadonlySet<string>,
): Promise<Map<string, string[]>> {
  const paths = new Map<string, string[]>();
  const parts = Array.from({ length: Math.ceil(hashes.length / 1000) }, (_, part) =>
    hashes.slice(part * 1000, (part + 1) * 1000),
  );
  // As many at once as the pool has connections.
  const found = await Promise.all(
    parts.map((part) =>
      select<{ hash: Buffer; path: string }>(
        database,
        `SELECT s.hash, p.path FROM asset_spans s FORCE INDEX (spans_by_hash) JOIN paths p ON p.digest = s.path_digest
          WHERE s.hash IN (?) AND s.channel_id = ? AND s.first_sequence <= ? AND s.last_sequence >= ? AND s.role = ?`,
        [
          part.map((hash) => Buffer.from(hash, 'hex')),
          from.channelId,
          from.sequence,
          from.sequence,
          role.file,
        ],
      ),
    ),
  );
  for (const rows of found)
    for (const row of rows) {
      if (gone.has(row.path)) continue;
      const hash = row.hash.toString('hex');
      const list = paths.get(hash);
      if (list) list.push(row.path);
      else paths.set(hash, [row.path]);
    }
  return paths;
}
