import { grouped } from '../../grouped.ts';
import type { Kind } from '../../../contract/kinds.ts';
import { usualRules } from '../../names/split.ts';
import type { SplitRules } from '../../../contract/names.ts';
import { compare } from '../pair-paths.ts';
import { nameLikeness, namedBy, partWeights, type Named, type PartWeights } from './named.ts';
import { likelihood, oddsOf, type Measures } from './score.ts';
import { describeLooks, looksOf } from './looks.ts';
import { BandIndex } from './band-index.ts';
import { SketchIndex } from './sketch-index.ts';
import { sketchers } from './sketch.ts';

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
  /** How likely it is that they are one thing, 0 to 1: of pairs with 0.6, 60 of 100 are right. */
  score: number;
  reason: string;
}

/** Below this a pair is not proposed. */
export const leastScore = 0.8;

const mostBits = 14;
const mostOfBucket = 16;
const mostOfName = 32;

/**
 * Pairs what is gone with what is new by likeness within a kind: candidates come from indexes of signatures, of names and
 * of their rarest part, never from comparing all with all; the best pair first. The same input gives the same pairs.
 */
export function pairByLikeness(
  gone: readonly LikenessItem[],
  fresh: readonly LikenessItem[],
  rules: SplitRules = usualRules,
  least = leastScore,
): LikenessPair[] {
  const pairs: LikenessPair[] = [];
  const named = namedBy(rules);
  const olds = grouped(gone, ({ kind }) => kind);
  const news = grouped(fresh, ({ kind }) => kind);
  for (const [kind, items] of [...news].sort(([a], [b]) => compare(a, b))) {
    const [before, after] = [(olds.get(kind) ?? []).map(named), items.map(named)];
    if (before.length > 0) pairs.push(...pairsOf(sidesOf(kind, before, after), least));
  }
  return pairs.sort((a, b) => compare(a.path, b.path));
}

/** Two that may be one thing, and how likely by what they are alike in. */
export interface Candidate {
  old: number;
  now: number;
  odds: number;
}

/** What went and what is new within a kind, and what the parts of their names say. */
export interface Sides {
  kind: Kind;
  olds: readonly Named[];
  news: readonly Named[];
  weights: PartWeights;
}

export function sidesOf(kind: Kind, olds: readonly Named[], news: readonly Named[]): Sides {
  return { kind, olds, news, weights: partWeights(olds, news) };
}

/** All that may be one thing, of each new thing the likeliest; the best first, what is as good by its path. */
export function candidatesOf(sides: Sides): Candidate[] {
  const { kind, olds, news, weights } = sides;
  const near = candidateFinder(sides);
  const candidates: Candidate[] = [];
  for (const [now, item] of news.entries()) {
    const best: Candidate[] = [];
    for (const old of near(now)) {
      const before = olds[old];
      if (!before) continue;
      const odds = oddsOf(kind, measuresOf(kind, before, item, weights));
      if (best.length < mostOfItem) best.push({ old, now, odds });
      else {
        // The worst of them makes room.
        let worst = 0;
        for (let at = 1; at < best.length; at++)
          if ((best[at]?.odds ?? 0) < (best[worst]?.odds ?? 0)) worst = at;
        if (odds > (best[worst]?.odds ?? 0)) best[worst] = { old, now, odds };
      }
    }
    candidates.push(...best);
  }
  const pathOf = (items: readonly Named[], at: number): string => items[at]?.item.path ?? '';
  return candidates.sort(
    (a, b) =>
      b.odds - a.odds ||
      compare(pathOf(news, a.now), pathOf(news, b.now)) ||
      compare(pathOf(olds, a.old), pathOf(olds, b.old)),
  );
}

/** Of one new thing so many candidates are looked at: the rest are worse than these. */
const mostOfItem = 12;

/** What two things of a kind are alike in. */
export function measuresOf(kind: Kind, old: Named, now: Named, weights: PartWeights): Measures {
  const [a, b] = [old.item.signature, now.item.signature];
  const measured = looksOf[kind];
  // What an older version of the readers wrote says nothing.
  const canMeasure = a?.length === measured?.bytes && b?.length === measured?.bytes;
  const looks = a && b && measured && canMeasure ? measured.measure(a, b) : null;
  return { name: nameLikeness(old, now, weights), looks };
}

function pairsOf(sides: Sides, least: number): LikenessPair[] {
  const { kind, olds, news, weights } = sides;
  const pairs: LikenessPair[] = [];
  settle(candidatesOf(sides), ({ old: oldAt, now: newAt, odds }, lead) => {
    const [old, now] = [olds[oldAt], news[newAt]];
    if (!old || !now) return false;
    const measures = measuresOf(kind, old, now, weights);
    const score = likelihood(kind, measures.looks !== null, odds, lead);
    if (score < least) return false;
    const reason = reasonOf(kind, old, now, measures);
    pairs.push({ oldPath: old.item.path, path: now.item.path, score, reason });
    return true;
  });
  return pairs;
}

/**
 * Goes through candidates, the best first, but for those of which either was taken. How likely one is depends on its rivals
 * too: what is as much like something else cannot be told from it.
 * @param takes is told by how much a candidate's odds are ahead of those of its best rival, and says whether it is a pair
 */
export function settle(
  candidates: readonly Candidate[],
  takes: (candidate: Candidate, lead: number) => boolean,
): void {
  const [oldTaken, newTaken] = [new Set<number>(), new Set<number>()];
  const byNew = grouped(candidates, ({ now }) => now);
  const byOld = grouped(candidates, ({ old }) => old);
  for (const candidate of candidates) {
    if (oldTaken.has(candidate.old) || newTaken.has(candidate.now)) continue;
    const isRival = (other: Candidate): boolean =>
      other !== candidate && !oldTaken.has(other.old) && !newTaken.has(other.now);
    const best = Math.max(
      byNew.get(candidate.now)?.find(isRival)?.odds ?? -Infinity,
      byOld.get(candidate.old)?.find(isRival)?.odds ?? -Infinity,
    );
    if (!takes(candidate, candidate.odds - best)) continue;
    oldTaken.add(candidate.old);
    newTaken.add(candidate.now);
  }
}

function reasonOf(kind: Kind, old: Named, now: Named, { name, looks }: Measures): string {
  const [sameName = 0, parts = 0, , , folders = 0, , size = 0] = name;
  return [
    looks ? describeLooks(kind, looks) : '',
    sameName === 1
      ? 'same name'
      : parts > 0.5
        ? 'much of the name is the same'
        : parts > 0.2
          ? 'part of the name is the same'
          : '',
    old.folder === now.folder ? 'same folder' : folders > 0.5 ? 'nearly the same folder' : '',
    looks === null && size > 0.9 ? 'about as large' : '',
  ]
    .filter(Boolean)
    .join(', ');
}

function candidateFinder({ kind, olds, news, weights }: Sides): (now: number) => Iterable<number> {
  const byStem = grouped(olds.keys(), (at) => olds[at]?.stem ?? '');
  const byPart = new Map<string, number[]>();
  for (const [at, { parts }] of olds.entries())
    for (const part of rarest(parts, weights)) {
      const list = byPart.get(part);
      if (list) list.push(at);
      else byPart.set(part, [at]);
    }
  const signatures = [...olds, ...news].flatMap(({ item }) => (item.signature ? [item.signature] : []));
  const withSignature = [...olds.keys()].filter((at) => olds[at]?.item.signature);
  const indexes = sketchers(kind, signatures).map((sketchOf) => ({
    sketchOf,
    index: new SketchIndex(
      withSignature.map((at) => sketchOf(olds[at]?.item.signature ?? new Uint8Array(0))),
    ),
  }));
  const bands = new BandIndex(
    kind,
    withSignature.map((at) => olds[at]?.item.signature ?? new Uint8Array(0)),
  );
  return (now) => {
    const item = news[now];
    const found = new Set<number>();
    if (!item) return found;
    const named = [byStem.get(item.stem), ...rarest(item.parts, weights).map((part) => byPart.get(part))];
    // What very many are called says nothing of any of them.
    for (const list of named) if (list && list.length <= mostOfName) for (const at of list) found.add(at);
    const { signature } = item.item;
    if (!signature) return found;
    const add = (at: number): void => {
      const old = withSignature[at];
      if (old !== undefined) found.add(old);
    };
    for (const { sketchOf, index } of indexes) index.near(sketchOf(signature), mostBits, mostOfBucket, add);
    bands.near(signature, mostOfName, add);
    return found;
  };
}

/** The two parts that say most. */
function rarest(parts: readonly string[], weights: PartWeights): string[] {
  return [...parts]
    .sort((a, b) => (weights.get(b) ?? 0) - (weights.get(a) ?? 0) || compare(a, b))
    .slice(0, 2);
}
