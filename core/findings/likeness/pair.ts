import { grouped } from '../../grouped.ts';
import type { Kind } from '../../../contract/kinds.ts';
import { splitName, stemOf, usualRules } from '../../names/split.ts';
import type { SplitRules } from '../../../contract/names.ts';
import { compare } from '../pair-paths.ts';
import { SketchIndex } from './sketch-index.ts';
import { signatureLikeness } from './signature-likeness.ts';
import { sketcher } from './sketch.ts';

/** What is gone, or new, as far as likeness looks at it. */
export interface LikenessItem {
  path: string;
  kind: Kind;
  size: number | null;
  signature: Uint8Array | null;
}

/** Something that was renamed and changed at once, as it seems. */
export interface LikenessPair {
  oldPath: string;
  path: string;
  /** 0 to 1. */
  score: number;
  reason: string;
}

/** Below this a pair is not proposed. */
export const leastScore = 0.58;
/** Where the next best is as near as this, which of them it is cannot be told by what they look like. */
const margin = 0.02;

const mostBits = 14;
const mostOfBucket = 48;
const mostOfName = 24;

interface Named {
  item: LikenessItem;
  stem: string;
  parts: readonly string[];
  folder: string;
  format: string;
}

/**
 * Pairs what is gone with what is new by likeness within a kind: candidates come from indexes of signatures, of names and
 * of their rarest part, never from comparing all with all; the best pair first. The same input gives the same pairs.
 */
export function pairByLikeness(
  gone: readonly LikenessItem[],
  fresh: readonly LikenessItem[],
  rules: SplitRules = usualRules,
): LikenessPair[] {
  const pairs: LikenessPair[] = [];
  const olds = grouped(gone, ({ kind }) => kind);
  const news = grouped(fresh, ({ kind }) => kind);
  for (const [kind, items] of [...news].sort(([a], [b]) => compare(a, b)))
    pairs.push(...pairKind(kind, (olds.get(kind) ?? []).map(named(rules)), items.map(named(rules))));
  return pairs.sort((a, b) => compare(a.path, b.path));
}

const named =
  (rules: SplitRules) =>
  (item: LikenessItem): Named => {
    const { path } = item;
    const name = path.slice(path.lastIndexOf('/') + 1);
    const stem = stemOf(path).toLowerCase();
    return {
      item,
      stem,
      parts: splitName(stemOf(path), rules),
      folder: path.slice(0, Math.max(0, path.lastIndexOf('/'))),
      format: name.slice(stem.length).toLowerCase(),
    };
  };

interface Edge {
  old: number;
  now: number;
  score: number;
  reason: string;
}

function pairKind(kind: Kind, olds: readonly Named[], news: readonly Named[]): LikenessPair[] {
  if (olds.length === 0) return [];
  const weights = partWeights(olds, news);
  const candidates = candidateFinder(kind, olds, news, weights);
  const edges: Edge[] = [];
  for (const [now, item] of news.entries()) {
    const best: Edge[] = [];
    for (const old of candidates(now)) {
      const before = olds[old];
      if (!before) continue;
      const judged = judge(kind, before, item, weights);
      if (judged.score >= leastScore) best.push({ old, now, ...judged });
    }
    best.sort(
      (a, b) => b.score - a.score || compare(olds[a.old]?.item.path ?? '', olds[b.old]?.item.path ?? ''),
    );
    edges.push(...best.slice(0, 6));
  }
  edges.sort(
    (a, b) =>
      b.score - a.score ||
      compare(news[a.now]?.item.path ?? '', news[b.now]?.item.path ?? '') ||
      compare(olds[a.old]?.item.path ?? '', olds[b.old]?.item.path ?? ''),
  );
  return settle(edges, olds, news);
}

/** The best pair first. What has rivals that are as good is left alone: a wrong pair costs more than a missing one. */
function settle(edges: readonly Edge[], olds: readonly Named[], news: readonly Named[]): LikenessPair[] {
  const [oldTaken, newTaken] = [new Set<number>(), new Set<number>()];
  const byNew = grouped(edges, ({ now }) => now);
  const byOld = grouped(edges, ({ old }) => old);
  const pairs: LikenessPair[] = [];
  for (const edge of edges) {
    if (oldTaken.has(edge.old) || newTaken.has(edge.now)) continue;
    const isRival = (other: Edge): boolean =>
      other !== edge &&
      edge.score - other.score < margin &&
      !oldTaken.has(other.old) &&
      !newTaken.has(other.now);
    if ((byNew.get(edge.now) ?? []).some(isRival) || (byOld.get(edge.old) ?? []).some(isRival)) continue;
    oldTaken.add(edge.old);
    newTaken.add(edge.now);
    const [old, now] = [olds[edge.old], news[edge.now]];
    if (old && now)
      pairs.push({ oldPath: old.item.path, path: now.item.path, score: edge.score, reason: edge.reason });
  }
  return pairs;
}

/** How much a part of a name says: the rarer, the more. */
function partWeights(olds: readonly Named[], news: readonly Named[]): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  for (const { parts } of [...olds, ...news])
    for (const part of new Set(parts)) counts.set(part, (counts.get(part) ?? 0) + 1);
  const total = olds.length + news.length;
  return new Map([...counts].map(([part, count]) => [part, Math.log2(1 + total / count)]));
}

function candidateFinder(
  kind: Kind,
  olds: readonly Named[],
  news: readonly Named[],
  weights: ReadonlyMap<string, number>,
): (now: number) => Iterable<number> {
  const byStem = grouped(olds.keys(), (at) => olds[at]?.stem ?? '');
  const byPart = new Map<string, number[]>();
  for (const [at, { parts }] of olds.entries())
    for (const part of rarest(parts, weights)) {
      const list = byPart.get(part);
      if (list) list.push(at);
      else byPart.set(part, [at]);
    }
  const signatures = [...olds, ...news].flatMap(({ item }) => (item.signature ? [item.signature] : []));
  const sketchOf = sketcher(kind, signatures);
  const withSignature = [...olds.keys()].filter((at) => olds[at]?.item.signature);
  const index = new SketchIndex(
    withSignature.map((at) => sketchOf(olds[at]?.item.signature ?? new Uint8Array(0))),
  );
  return (now) => {
    const item = news[now];
    const found = new Set<number>();
    if (!item) return found;
    for (const at of (byStem.get(item.stem) ?? []).slice(0, mostOfName)) found.add(at);
    for (const part of rarest(item.parts, weights))
      for (const at of (byPart.get(part) ?? []).slice(0, mostOfName)) found.add(at);
    const { signature } = item.item;
    if (signature)
      index.near(sketchOf(signature), mostBits, mostOfBucket, (at) => {
        const old = withSignature[at];
        if (old !== undefined) found.add(old);
      });
    return found;
  };
}

/** The two parts that say most. */
function rarest(parts: readonly string[], weights: ReadonlyMap<string, number>): string[] {
  return [...new Set(parts)]
    .sort((a, b) => (weights.get(b) ?? 0) - (weights.get(a) ?? 0) || compare(a, b))
    .slice(0, 2);
}

function judge(
  kind: Kind,
  old: Named,
  now: Named,
  weights: ReadonlyMap<string, number>,
): { score: number; reason: string } {
  const name = nameLikeness(old, now, weights);
  const folder = folderLikeness(old.folder, now.folder);
  const [a, b] = [old.item.signature, now.item.signature];
  const looks = a && b ? signatureLikeness(kind, a, b) : null;
  const size = sizeLikeness(old.item.size, now.item.size);
  // Without a signature only a name that is the same, in a folder that is nearly so, says enough.
  const score =
    looks === null
      ? (name === 1 ? 0.5 : name * 0.3) + folder * 0.2 + size * 0.25 + (old.format === now.format ? 0.05 : 0)
      : looks * 0.58 + name * 0.27 + folder * 0.1 + size * 0.05;
  const reasons = [
    looks === null
      ? ''
      : `${kind === 'sound' ? 'sounds' : kind === 'text' ? 'reads' : 'looks'} ${Math.round(looks * 100)} % alike`,
    name === 1
      ? 'same name'
      : name > 0.5
        ? 'much of the name is the same'
        : name > 0.2
          ? 'part of the name is the same'
          : '',
    old.folder === now.folder ? 'same folder' : folder > 0.5 ? 'nearly the same folder' : '',
    looks === null && size > 0.9 ? 'about as large' : '',
  ];
  return { score: Math.min(1, score), reason: reasons.filter(Boolean).join(', ') };
}

/** Share of what the parts say that both names have. */
function nameLikeness(old: Named, now: Named, weights: ReadonlyMap<string, number>): number {
  if (old.stem === now.stem) return 1;
  const [a, b] = [new Set(old.parts), new Set(now.parts)];
  let [common, all] = [0, 0];
  for (const part of new Set([...a, ...b])) {
    const weight = weights.get(part) ?? 1;
    all += weight;
    if (a.has(part) && b.has(part)) common += weight;
  }
  return all === 0 ? 0 : (common / all) * 0.95;
}

/** Share of folders from the top and from the end that are the same. */
function folderLikeness(old: string, now: string): number {
  if (old === now) return 1;
  const [a, b] = [old.split('/'), now.split('/')];
  let top = 0;
  while (top < Math.min(a.length, b.length) && a[top] === b[top]) top++;
  let end = 0;
  while (end < Math.min(a.length, b.length) - top && a.at(-1 - end) === b.at(-1 - end)) end++;
  return ((top + end) / Math.max(a.length, b.length)) * 0.95;
}

function sizeLikeness(a: number | null, b: number | null): number {
  if (a === null || b === null || a + b === 0) return 0.5;
  return Math.min(a, b) / Math.max(1, a, b);
}
