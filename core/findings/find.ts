import type { Kind, Status } from '../../contract/kinds.ts';
import { grouped } from '../grouped.ts';
import { compare, nearestPath, pairPaths } from './pair-paths.ts';

/** What lies at a path in one build. `hash` is null for an asset that could not be read. */
export interface Leaf {
  path: string;
  hash: string | null;
  /** Hash of its packed bytes: all that tells one locked content from another. */
  packedHash?: string | null;
  /** Of the decoded content, where a reader made one: equal for what is the same to a person. */
  fingerprint?: string | null;
  size: number | null;
  kind: Kind;
  format: string;
}

/** One path whose state differs between the builds; null where the path is not there. */
export interface Difference {
  old: Leaf | null;
  new: Leaf | null;
}

export interface PlainFinding {
  status: Status;
  kind: Kind;
  format: string;
  path: string;
  oldPath: string | null;
  size: number | null;
  oldSize: number | null;
  hash: string | null;
  oldHash: string | null;
  /** Of the older state, where it is another format; else `format`. */
  oldFormat?: string;
  /** How sure it is that two paths are one thing, where that is told by likeness. */
  likeness?: { score: number; reason: string; said: 'proposed' | 'joined' };
}

/**
 * Makes findings of the paths that differ. A path that is gone and one that is new with the same content are
 * one `moved`; contents repeat, so that they are paired as multisets. A new path with a content that the old
 * build holds at a path which is still there is `copied`. Other bytes of the same decoded content are `repacked`, at
 * the same path or at another one. What is left is `added` or `removed`.
 *
 * @param stillThere for contents (hex hashes), the paths of the old build that hold them and that the new
 *   build has too (with whatever content)
 * @returns sorted by path
 */
export function findDifferences(
  differences: readonly Difference[],
  stillThere: ReadonlyMap<string, readonly string[]>,
): PlainFinding[] {
  const findings: PlainFinding[] = [];
  const gone = new Map<string, Leaf[]>();
  const fresh = new Map<string, Leaf[]>();
  const added: Leaf[] = [];
  for (const { old, new: now } of differences) {
    if (old && now) {
      if (!isSame(old, now)) findings.push(finding(isRepacked(old, now) ? 'repacked' : 'changed', old, now));
    } else if (old) collect(gone, old);
    else if (now) collect(fresh, now);
  }
  for (const [hash, news] of fresh) {
    const olds = gone.get(hash) ?? [];
    const pairs = hash === '' ? [] : pairPaths(olds.map(pathOf), news.map(pathOf));
    const movedTo = new Map(pairs.map(([oldPath, newPath]) => [newPath, oldPath]));
    const movedFrom = new Map(olds.map((leaf) => [leaf.path, leaf]));
    for (const now of news) {
      const oldPath = movedTo.get(now.path);
      const old = oldPath === undefined ? undefined : movedFrom.get(oldPath);
      if (old) {
        movedFrom.delete(old.path);
        findings.push(finding('moved', old, now));
        continue;
      }
      const source = nearestPath(now.path, stillThere.get(hash) ?? []);
      if (source === null) added.push(now);
      else findings.push({ ...finding('copied', now, now), oldPath: source });
    }
    gone.set(hash, [...movedFrom.values()]);
  }
  const left = pairRepacked([...gone.values()].flat(), added, findings);
  for (const now of left.added) findings.push(finding('added', null, now));
  for (const old of left.removed) findings.push(finding('removed', old, null));
  return findings.sort((a, b) => compare(a.path, b.path));
}

/** Contents of new paths: those for which `findDifferences` wants to know where else the old build has them. */
export function contentsOfNewPaths(differences: readonly Difference[]): string[] {
  const hashes = new Set<string>();
  for (const { old, new: now } of differences) if (!old && now?.hash) hashes.add(now.hash);
  return [...hashes];
}

/** Pairs what decodes to the same under another path, nearest paths first. @returns what found no partner */
function pairRepacked(
  removed: readonly Leaf[],
  added: readonly Leaf[],
  findings: PlainFinding[],
): { removed: Leaf[]; added: Leaf[] } {
  const news = grouped(
    added.filter(({ fingerprint }) => fingerprint),
    ({ fingerprint, kind }) => `${kind} ${fingerprint ?? ''}`,
  );
  const paired = new Set<Leaf>();
  const olds = grouped(
    removed.filter(({ fingerprint }) => fingerprint),
    ({ fingerprint, kind }) => `${kind} ${fingerprint ?? ''}`,
  );
  for (const [key, group] of news) {
    const partners = olds.get(key) ?? [];
    const [oldLeaves, newLeaves] = [partners, group].map(
      (leaves) => new Map(leaves.map((leaf) => [leaf.path, leaf])),
    );
    for (const [oldPath, newPath] of pairPaths(partners.map(pathOf), group.map(pathOf))) {
      const [old, now] = [oldLeaves?.get(oldPath), newLeaves?.get(newPath)];
      if (!old || !now) continue;
      findings.push(finding('repacked', old, now));
      paired.add(old).add(now);
    }
  }
  return {
    removed: removed.filter((leaf) => !paired.has(leaf)),
    added: added.filter((leaf) => !paired.has(leaf)),
  };
}

function isRepacked(old: Leaf, now: Leaf): boolean {
  return Boolean(old.fingerprint) && old.fingerprint === now.fingerprint && old.kind === now.kind;
}

const pathOf = (leaf: Leaf): string => leaf.path;

/** Two states that cannot be read are the same unless their packed bytes say otherwise. */
function isSame(old: Leaf, now: Leaf): boolean {
  if (old.hash !== null && now.hash !== null) return old.hash === now.hash;
  if (old.packedHash && now.packedHash) return old.packedHash === now.packedHash;
  return old.hash === now.hash;
}

function collect(map: Map<string, Leaf[]>, leaf: Leaf): void {
  const key = leaf.hash ?? (leaf.packedHash ? `packed ${leaf.packedHash}` : '');
  const list = map.get(key);
  if (list) list.push(leaf);
  else map.set(key, [leaf]);
}

function finding(status: Status, old: Leaf | null, now: Leaf | null): PlainFinding {
  const shown = now ?? old;
  if (!shown) throw new TypeError('finding: neither an old nor a new state was given');
  return {
    status,
    kind: shown.kind,
    format: shown.format,
    path: shown.path,
    oldPath: old?.path ?? null,
    size: now?.size ?? null,
    oldSize: old?.size ?? null,
    hash: now?.hash ?? null,
    oldHash: old?.hash ?? null,
    ...(old && now && old.format !== now.format ? { oldFormat: old.format } : {}),
  };
}
