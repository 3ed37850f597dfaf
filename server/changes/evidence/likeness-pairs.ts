import type { LikenessItem, LikenessPair } from '../../../core/findings/likeness/pair.ts';
import type { PlainFinding } from '../../../core/findings/find.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { change, select, type Queryable } from '../../platform/database/rows.ts';
import { pathDigest } from '../../store/hash.ts';
import { bumpSpan } from './span-evidence.ts';

export interface SaidPair {
  oldPath: string;
  path: string;
  score: number;
  reason: string;
  said: 'proposed' | 'joined' | 'parted';
}

/** What is proposed and was said of a span's pairs. */
export async function listPairs(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
): Promise<SaidPair[]> {
  return select<SaidPair>(
    database,
    `SELECT o.path AS oldPath, p.path, l.score, l.reason, l.said FROM likeness_pairs l
       JOIN paths p ON p.digest = l.new_digest JOIN paths o ON o.digest = l.old_digest
      WHERE l.channel_id = ? AND l.from_build = ? AND l.to_build = ? ORDER BY l.score DESC, p.path`,
    [to.channelId, from.id, to.id],
  );
}

/** Writes down what is proposed now; what a person said stays. */
export async function keepProposals(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
  pairs: readonly LikenessPair[],
): Promise<void> {
  const key = [to.channelId, from.id, to.id];
  await change(
    database,
    "DELETE FROM likeness_pairs WHERE channel_id = ? AND from_build = ? AND to_build = ? AND said = 'proposed'",
    key,
  );
  for (let at = 0; at < pairs.length; at += 500) {
    const rows = pairs
      .slice(at, at + 500)
      .map(({ path, oldPath, score, reason }) => [
        ...key,
        pathDigest(path),
        pathDigest(oldPath),
        score,
        reason.slice(0, 300),
        'proposed',
      ]);
    await change(
      database,
      `INSERT IGNORE INTO likeness_pairs (channel_id, from_build, to_build, new_digest, old_digest, score, reason, said)
       VALUES ${rows.map(() => '(?, ?, ?, ?, ?, ?, ?, ?)').join(', ')}`,
      rows.flat(),
    );
  }
}

/** Joins two paths, or parts them. */
export async function decidePair(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
  { path, oldPath, said, by }: { path: string; oldPath: string; said: 'joined' | 'parted'; by: string },
): Promise<void> {
  await change(
    database,
    `INSERT INTO likeness_pairs (channel_id, from_build, to_build, new_digest, old_digest, score, reason, said, said_by)
     VALUES (?, ?, ?, ?, ?, 1, ?, ?, ?) ON DUPLICATE KEY UPDATE said = VALUES(said), said_by = VALUES(said_by)`,
    [
      to.channelId,
      from.id,
      to.id,
      pathDigest(path),
      pathDigest(oldPath),
      `${by || 'a person'} said so`,
      said,
      by,
    ],
  );
  await bumpSpan(database, from, to);
}

/** What was gone and what is new of a span, with their signatures. */
export async function likenessItems(
  database: Queryable,
  findings: readonly PlainFinding[],
): Promise<{ gone: LikenessItem[]; fresh: LikenessItem[] }> {
  const sides = findings.filter(({ status }) => status === 'added' || status === 'removed');
  const hashes = [...new Set(sides.flatMap(({ hash, oldHash }) => hash ?? oldHash ?? []))];
  const signatures = new Map<string, Uint8Array>();
  for (let from = 0; from < hashes.length; from += 2000) {
    const rows = await select<{ hash: Buffer; format: string; signature: Buffer }>(
      database,
      'SELECT hash, format, signature FROM content_facts WHERE hash IN (?) AND signature IS NOT NULL',
      [hashes.slice(from, from + 2000).map((hash) => Buffer.from(hash, 'hex'))],
    );
    for (const { hash, format, signature } of rows)
      signatures.set(`${hash.toString('hex')} ${format}`, signature);
  }
  const item = ({ path, kind, format, size, oldSize, hash, oldHash }: PlainFinding): LikenessItem => ({
    path,
    kind,
    size: size ?? oldSize,
    signature: signatures.get(`${hash ?? oldHash ?? ''} ${format}`) ?? null,
  });
  return {
    gone: sides.filter(({ status }) => status === 'removed').map(item),
    fresh: sides.filter(({ status }) => status === 'added').map(item),
  };
}

/** Joins what is said or proposed to be one thing: two findings become one. */
export function joinPairs(findings: readonly PlainFinding[], pairs: readonly SaidPair[]): PlainFinding[] {
  if (pairs.length === 0) return [...findings];
  const removed = new Map(
    findings.flatMap((finding) => (finding.status === 'removed' ? [[finding.path, finding]] : [])),
  );
  const added = new Map(
    findings.flatMap((finding) => (finding.status === 'added' ? [[finding.path, finding]] : [])),
  );
  const order = { joined: 0, proposed: 1, parted: 2 } as const;
  const joined = new Map<string, PlainFinding>();
  const taken = new Set<string>();
  for (const { path, oldPath, score, reason, said } of [...pairs].sort(
    (a, b) => order[a.said] - order[b.said],
  )) {
    const [old, now] = [removed.get(oldPath), added.get(path)];
    if (said === 'parted' || !old || !now || taken.has(oldPath) || joined.has(path)) continue;
    taken.add(oldPath);
    joined.set(path, {
      ...now,
      status: 'changed',
      oldPath,
      oldSize: old.oldSize,
      oldHash: old.oldHash,
      ...(old.format === now.format ? {} : { oldFormat: old.format }),
      likeness: { score, reason, said },
    });
  }
  return findings.flatMap((finding) => {
    if (finding.status === 'removed' && taken.has(finding.path)) return [];
    return (finding.status === 'added' && joined.get(finding.path)) || finding;
  });
}
