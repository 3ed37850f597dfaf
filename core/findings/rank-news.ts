import type { Nature } from '../../contract/comparisons.ts';
import type { Kind } from '../../contract/kinds.ts';
import type { PlainFinding } from './find.ts';
import { compare } from './pair-paths.ts';

/** What is known of a file beside what differs. */
export interface FileNews {
  /** Files that name it. */
  users: number;
  /** `id` tells families of one name apart. */
  family: { id: number; name: string; isNew: boolean; files: number; isFace: boolean } | null;
}

export interface NewsSource {
  fileOf: (path: string) => FileNews | null;
  judgedOf: (finding: PlainFinding) => { nature: Nature | null; extent: number } | null;
  /** Never-seen parts of the file's name. */
  freshPartsOf: (path: string) => readonly string[];
  /** Label of the build that had it last, where it was gone before this span began. */
  cameBack: (path: string) => string | null;
  /** Strings of a text that are new, where players read it. */
  newStringsOf: (finding: PlainFinding) => number;
}

export interface Ranked {
  finding: PlainFinding;
  score: number;
  reasons: { why: string; points: number }[];
}

/**
 * What a new file of a kind is worth by itself. What players see and hear comes first, and of that what takes longest to
 * make; definitions, scripts and other texts are told by what they bring: the things that they name, the strings that players
 * read.
 */
export const worthOfNew: Readonly<Record<Kind, number>> = {
  map: 40,
  model: 24,
  film: 20,
  clip: 14,
  sound: 12,
  picture: 12,
  font: 8,
  text: 1,
  other: 1,
};

/** Names of what players meet matter; those of scripts and tables are the makers' own. */
const kindsWithNames: ReadonlySet<Kind> = new Set(['map', 'model', 'film', 'clip', 'sound', 'picture']);
const kindsThatAreUsed: ReadonlySet<Kind> = new Set(['model', 'map', 'sound', 'clip']);

/**
 * Ranks findings by what a team cares about: new families and maps, big changes of what is used often, new names and strings,
 * what nothing uses yet, what came back. Each rank says why. A family is told once, by its best member; kinds take turns, so
 * that a thousand new icons do not hide the one new map. Findings without any news are left out.
 */
export function rankNews(findings: readonly PlainFinding[], source: NewsSource): Ranked[] {
  const ranked: Ranked[] = [];
  for (const finding of findings) {
    const reasons = reasonsFor(finding, source).filter(({ points }) => points > 0);
    const score = reasons.reduce((sum, { points }) => sum + points, 0);
    if (score > 0) ranked.push({ finding, score, reasons });
  }
  ranked.sort((a, b) => b.score - a.score || compare(a.finding.path, b.finding.path));
  return spreadOverKinds(onceAFamily(ranked, source));
}

/** Of a family's new files only the first is told, with how many others there are. */
function onceAFamily(ranked: readonly Ranked[], { fileOf }: NewsSource): Ranked[] {
  const told = new Map<number, { item: Ranked; others: number }>();
  const kept: Ranked[] = [];
  for (const item of ranked) {
    const { path, status } = item.finding;
    const family = status === 'added' ? fileOf(path)?.family : null;
    if (!family?.isNew || family.files < 2) {
      kept.push(item);
      continue;
    }
    const first = told.get(family.id);
    if (first) first.others++;
    else {
      told.set(family.id, { item, others: 0 });
      kept.push(item);
    }
  }
  for (const { item, others } of told.values()) {
    const face = item.reasons.find(({ why }) => why.startsWith('the face of a new family'));
    if (face && others > 0) face.why += `, ${others} more of them new`;
  }
  return kept;
}

/** How much less the next one of a kind weighs for each one before it. */
const tiredness = 0.18;

/** Orders by score, where each one that was told makes the next of its kind weigh less. */
function spreadOverKinds(ranked: readonly Ranked[]): Ranked[] {
  const queues = new Map<Kind, Ranked[]>();
  for (const item of [...ranked].reverse()) {
    const queue = queues.get(item.finding.kind);
    if (queue) queue.push(item);
    else queues.set(item.finding.kind, [item]);
  }
  const toldOfKind = new Map<Kind, number>();
  const spread: Ranked[] = [];
  for (;;) {
    let best: { kind: Kind; weight: number } | null = null;
    for (const [kind, queue] of queues) {
      const next = queue.at(-1);
      if (!next) continue;
      const weight = next.score / (1 + tiredness * (toldOfKind.get(kind) ?? 0));
      if (!best || weight > best.weight) best = { kind, weight };
    }
    const item = best && queues.get(best.kind)?.pop();
    if (!best || !item) return spread;
    spread.push(item);
    toldOfKind.set(best.kind, (toldOfKind.get(best.kind) ?? 0) + 1);
  }
}

function reasonsFor(finding: PlainFinding, source: NewsSource): Ranked['reasons'] {
  const { status, kind, path } = finding;
  const reasons: Ranked['reasons'] = [];
  const say = (points: number, why: string): void => void reasons.push({ why, points: Math.round(points) });
  const file = source.fileOf(path);
  const worth = worthOfNew[kind];
  if (status === 'added') {
    say(worth, `a new ${kind}`);
    // A family is worth what its face is: two scripts of one name are none.
    if (file?.family?.isNew && file.family.files > 1 && file.family.isFace)
      say(
        Math.min(worth, 24) * Math.min(1.25, 0.4 + 0.2 * Math.log2(file.family.files)),
        `the face of a new family, ${file.family.name}, of ${file.family.files} files`,
      );
    const back = source.cameBack(path);
    if (back !== null) say(Math.min(22, 4 + worth), `it came back: ${back} had it last`);
    if (file && file.users === 0 && kindsThatAreUsed.has(kind)) say(6, 'nothing uses it yet');
  }
  const isNewName =
    status === 'added' || finding.likeness || (status === 'moved' && finding.oldPath !== path);
  if (isNewName && kindsWithNames.has(kind)) {
    const fresh = source.freshPartsOf(path);
    if (fresh.length > 0)
      say(Math.min(20, fresh.length * 10), `a name never seen: ${fresh.slice(0, 3).join(', ')}`);
  }
  const strings = source.newStringsOf(finding);
  if (strings > 0)
    say(
      Math.min(40, 12 + 4 * Math.log2(strings + 1)),
      `${strings} new ${strings === 1 ? 'string' : 'strings'} that players read`,
    );
  if (status === 'changed') describeChange(finding, file, source, say);
  if (status === 'removed') say(worth / 4, `a ${kind} that is gone`);
  return reasons;
}

function describeChange(
  finding: PlainFinding,
  file: FileNews | null,
  source: NewsSource,
  say: (points: number, why: string) => void,
): void {
  const judged = source.judgedOf(finding);
  // Before it was compared, nobody knows how much of it changed.
  const extent = judged ? judged.extent : 0.3;
  const isSlight = judged !== null && judged.nature !== 'other';
  const worth = worthOfNew[finding.kind];
  if (isSlight) {
    say(extent * Math.min(10, worth), 'it differs in form alone');
    return;
  }
  say(
    extent * worth * 0.8,
    judged ? `${Math.round(extent * 100)} % of it changed` : 'it changed, and was not compared yet',
  );
  if (file && file.users > 0)
    say(
      extent * Math.min(worth, 20, 6 * Math.log2(1 + file.users)),
      `${file.users} ${file.users === 1 ? 'file uses' : 'files use'} it`,
    );
}
