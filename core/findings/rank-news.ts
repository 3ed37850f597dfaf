import type { Nature } from '../../contract/comparisons.ts';
import type { Kind } from '../../contract/kinds.ts';
import type { PlainFinding } from './find.ts';
import { compare } from './pair-paths.ts';

/** What is known of a file beside what differs. */
export interface FileNews {
  /** Files that name it. */
  users: number;
  family: { name: string; isNew: boolean; files: number; isFace: boolean } | null;
}

export interface NewsSource {
  fileOf: (path: string) => FileNews | null;
  judgedOf: (finding: PlainFinding) => { nature: Nature | null; extent: number } | null;
  /** Never-seen parts of the file's name. */
  freshPartsOf: (path: string) => readonly string[];
  /** Label of the build that had it last, where it was gone before this span began. */
  cameBack: (path: string) => string | null;
  /** Strings of a text that are new. */
  newStringsOf: (finding: PlainFinding) => number;
}

export interface Ranked {
  finding: PlainFinding;
  score: number;
  reasons: { why: string; points: number }[];
}

/** What a new file of a kind is worth by itself: what takes longest to make is what people look for first. */
const worthOfNew: Readonly<Record<Kind, number>> = {
  map: 40,
  model: 16,
  clip: 9,
  film: 12,
  sound: 7,
  picture: 5,
  font: 6,
  text: 6,
  other: 2,
};

/**
 * Ranks findings by what a team cares about: new families and maps, big changes of what is used often, new names and texts,
 * what nothing uses yet, what came back. Each rank says why. Findings without any news are left out.
 */
export function rankNews(findings: readonly PlainFinding[], source: NewsSource): Ranked[] {
  const ranked: Ranked[] = [];
  for (const finding of findings) {
    const reasons = reasonsFor(finding, source).filter(({ points }) => points > 0);
    const score = reasons.reduce((sum, { points }) => sum + points, 0);
    if (score > 0) ranked.push({ finding, score, reasons });
  }
  return ranked.sort((a, b) => b.score - a.score || compare(a.finding.path, b.finding.path));
}

function reasonsFor(finding: PlainFinding, source: NewsSource): Ranked['reasons'] {
  const { status, kind, path } = finding;
  const reasons: Ranked['reasons'] = [];
  const say = (points: number, why: string): void => void reasons.push({ why, points: Math.round(points) });
  const file = source.fileOf(path);
  if (status === 'added') {
    say(worthOfNew[kind], `a new ${kind}`);
    if (file?.family?.isNew && file.family.files > 1)
      say(
        file.family.isFace ? 30 : 6,
        file.family.isFace
          ? `the face of a new family, ${file.family.name}, of ${file.family.files} files`
          : `of the new family ${file.family.name}`,
      );
    const back = source.cameBack(path);
    if (back !== null) say(22, `it came back: ${back} had it last`);
    if (
      file &&
      file.users === 0 &&
      (kind === 'model' || kind === 'map' || kind === 'sound' || kind === 'clip')
    )
      say(8, 'nothing uses it yet');
  }
  if (status === 'added' || finding.likeness || (status === 'moved' && finding.oldPath !== path)) {
    const fresh = source.freshPartsOf(path);
    if (fresh.length > 0)
      say(Math.min(20, fresh.length * 10), `a name never seen: ${fresh.slice(0, 3).join(', ')}`);
  }
  const strings = source.newStringsOf(finding);
  if (strings > 0)
    say(
      Math.min(24, 6 + 3 * Math.log2(strings + 1)),
      `${strings} new ${strings === 1 ? 'string' : 'strings'}`,
    );
  if (status === 'changed') {
    const judged = source.judgedOf(finding);
    // Before it was compared, nobody knows how much of it changed.
    const extent = judged ? judged.extent : 0.3;
    const isSlight = judged !== null && judged.nature !== 'other';
    if (isSlight) say(extent * 10, 'it differs in form alone');
    else {
      say(
        2 + extent * 18 * (0.4 + worthOfNew[kind] / 40),
        judged ? `${Math.round(extent * 100)} % of it changed` : 'it changed, and was not compared yet',
      );
      if (file && file.users > 0)
        say(
          extent * Math.min(20, 6 * Math.log2(1 + file.users)),
          `${file.users} ${file.users === 1 ? 'file uses' : 'files use'} it`,
        );
    }
  }
  if (status === 'removed') say(worthOfNew[kind] / 4, `a ${kind} that is gone`);
  return reasons;
}
