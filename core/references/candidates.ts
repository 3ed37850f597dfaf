import { extensionOf } from '../kinds/formats.ts';
import { splitName, stemOf } from '../names/split.ts';
import { termOf, type PathIndex } from '../search/path-index.ts';
import { cleaned, distance, kindByExtension, kindOfWhere } from './resolve.ts';

/** A file that a missing one may be, with why. */
export interface Candidate {
  number: number;
  path: string;
  /** 0 to 1: how often such a one is the right one, as was measured on trees of open data. */
  score: number;
  /** Whether it may be taken without being asked for: it has the same name, written otherwise, and no other has. */
  isCertain: boolean;
  reason: string;
}

const mostLookedAt = 2000;
const mostCandidates = 5;
/** What shares less is no candidate. */
const leastScore = 0.3;
const sameName = 'the same name, written otherwise';

/**
 * Files of a build that a mention may mean which nothing answers to: those whose names share parts with it, of the same
 * kind, near who names it. Best first.
 */
export function candidatesFor(
  index: PathIndex,
  isThere: (number: number) => boolean,
  text: string,
  from: string,
  where = '',
): Candidate[] {
  const wanted = cleaned(text);
  const stem = stemOf(wanted);
  const parts = splitName(stem);
  const canMean = kindTest(wanted, where);
  const found = new Map<number, Candidate>();
  // Words that stand in every name would have all of a build looked at.
  let looks = 0;
  const consider = (number: number): boolean => {
    if (++looks % mostLookedAt === 0) return false;
    if (!isThere(number) || found.has(number)) return true;
    const path = index.path(number);
    if (path === from) return true;
    if (!canMean(path)) return true;
    const { score, reason } = likeness(parts, stemOf(path));
    // The nearer of two that are alike is meant rather, and what lies in the folder that was named rather still.
    if (score >= leastScore)
      found.set(number, {
        number,
        path,
        score: score * (endsInFolder(path, wanted) ? 1 : 0.9) - Math.min(0.05, distance(path, from) * 0.005),
        isCertain: false,
        reason,
      });
    return true;
  };
  // First names that hold all of its parts, then those that hold all but one, then its longest part alone.
  const byLength = [...parts].sort((a, b) => b.length - a.length);
  index.find(parts.map(termOf), [], consider);
  for (const part of parts.length > 1 ? parts : [])
    index.find(parts.filter((other) => other !== part).map(termOf), [], consider);
  const longest = byLength[0] ?? '';
  if (found.size === 0 && longest.length >= 3) index.find([termOf(longest)], [], consider);
  // One letter wrong: its first or its last half is still there.
  if (found.size === 0 && stem.length >= 6) {
    const half = stem.toLowerCase();
    for (const piece of [half.slice(0, Math.ceil(half.length / 2)), half.slice(Math.floor(half.length / 2))])
      index.find([termOf(piece)], [], consider);
  }
  const ranked = [...found.values()].sort((a, b) => b.score - a.score || (a.path < b.path ? -1 : 1));
  const same = ranked.filter(({ reason }) => reason === sameName);
  const [only] = same;
  if (only && same.length === 1) only.isCertain = true;
  return ranked.slice(0, mostCandidates);
}

/**
 * Whether a file is of a kind that a mention can mean. An extension that is known means files of its kind; one that nobody
 * here knows means files of the same one: a film of a game's own format is none of its saved games, however alike their names
 * are. Without any, what names it says what is meant, and a file of unknown contents is never meant.
 */
function kindTest(wanted: string, where: string): (path: string) => boolean {
  const extension = extensionOf(wanted);
  const kind = extension === '' ? kindOfWhere(where) : kindByExtension(wanted);
  if (extension !== '' && (kind === null || kind === 'other'))
    return (path) => extensionOf(path) === extension;
  return (path) => {
    const itsKind = kindByExtension(path);
    return kind === null ? itsKind !== null && itsKind !== 'other' : itsKind === kind;
  };
}

/** Whether a path lies in the folder that a mention names; one that names none is content with any. */
function endsInFolder(path: string, wanted: string): boolean {
  const folder = wanted.slice(0, wanted.lastIndexOf('/') + 1).toLowerCase();
  return `/${path.slice(0, path.lastIndexOf('/') + 1).toLowerCase()}`.endsWith(`/${folder}`) || folder === '';
}

function likeness(parts: readonly string[], other: string): { score: number; reason: string } {
  const [left, right] = [parts.join(''), splitName(other).join('')];
  if (left === right) return { score: 1, reason: sameName };
  const others = new Set(splitName(other));
  const shared = parts.filter((part) => others.has(part));
  const share = (2 * shared.length) / (parts.length + others.size);
  const edits = editDistance(left, right);
  const near = 1 - edits / Math.max(left.length, right.length, 1);
  if (near >= 0.75 && edits <= 3 && near >= share)
    return { score: near * 0.7, reason: edits === 1 ? '1 letter differs' : `${edits} letters differ` };
  const extra = [...others].filter((part) => !parts.includes(part));
  const lacking = parts.filter((part) => !others.has(part));
  const sayings = [
    shared.length > 0 ? `shares ${shared.join(', ')}` : '',
    extra.length > 0 ? `has ${extra.join(', ')} too` : '',
    lacking.length > 0 ? `lacks ${lacking.join(', ')}` : '',
  ].filter((saying) => saying !== '');
  return { score: share * 0.7, reason: sayings.join(', ') };
}

/** Letters to be put in, taken out or changed (Levenshtein 1966). */
export function editDistance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, at) => at);
  for (let at = 1; at <= a.length; at++) {
    const next = [at];
    for (let place = 1; place <= b.length; place++)
      next.push(
        Math.min(
          (row[place] ?? 0) + 1,
          (next[place - 1] ?? 0) + 1,
          (row[place - 1] ?? 0) + (a[at - 1] === b[place - 1] ? 0 : 1),
        ),
      );
    row = next;
  }
  return row[b.length] ?? 0;
}
