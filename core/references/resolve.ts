import type { Mention } from '../kinds/mentions.ts';
import type { PathIndex } from '../search/path-index.ts';
import type { Kind } from '../../contract/kinds.ts';
import { linkRuleSchema, type LinkRule } from '../../contract/references.ts';
import { extensionOf, formatByExtension, formatOf } from '../kinds/formats.ts';
import { stemOf } from '../names/split.ts';
import type { StemIndex } from './stem-index.ts';

/** By which rule a mention was taken to mean a file; the surest first. */
export const linkRules = linkRuleSchema.options;

export const ruleTexts: Readonly<Record<LinkRule, string>> = {
  exact: 'the path as it is written',
  extension: 'the path with another extension or none',
  case: 'the path in other case',
  name: 'a guess by the name alone',
  accepted: 'accepted by a person',
};

/** Where mentions are looked up. */
export interface Places {
  index: PathIndex;
  stems: StemIndex;
  /** Models that have a level of detail, by their names without it. */
  levels: StemIndex;
  /** Whether the build has a path. */
  isThere: (number: number) => boolean;
}

export interface Resolved {
  /** Number of the path in the index. */
  target: number;
  rule: LinkRule;
}

/** A path as references write it: forward slashes, without what leads to the folder that they count from. */
export function cleaned(reference: string): string {
  const slashed = reference
    .trim()
    .replaceAll('\\', '/')
    .replace(/\/{2,}/g, '/');
  let text = slashed;
  try {
    // glTF writes names as URIs; a name with a sign of its own stays as it is.
    if (/%[0-9a-f]{2}/i.test(slashed)) text = decodeURIComponent(slashed);
  } catch {
    text = slashed;
  }
  return text.replace(/^([a-z]:)?\//i, '').replace(/^(\.\/)+/, '');
}

/**
 * Which file of a build a mention means. A path counts from the folder of the file that names it, from the root, or from
 * any folder above: of several the one that is nearest to who names it is meant.
 * @returns null where there is none
 */
export function resolve(
  { index, stems, levels, isThere }: Places,
  { text, sort, where }: Mention,
  from: string,
): Resolved | null {
  const wanted = cleaned(text);
  const up = /^(\.\.\/)+/.exec(wanted)?.[0] ?? '';
  const tail = joinedTo(from, wanted, up);
  const hasExtension = extensionOf(wanted) !== '';
  const stem = stemOf(wanted);
  let best: Resolved | null = null;
  let bestRank = Infinity;
  // A model that names a file without its extension means a picture: skins of older formats are written so.
  const isSkin = !hasExtension && where === 'file' && kindByExtension(from) === 'model';
  const wantedKind =
    (hasExtension ? kindByExtension(wanted) : null) ?? (isSkin ? 'picture' : kindOfWhere(where));
  const consider = (number: number, written?: string): void => {
    if (!isThere(number)) return;
    const path = index.path(number);
    if (path === from) return;
    const rule = ruleFor(written ?? path, wanted.slice(up.length), tail, hasExtension, sort, from);
    if (!rule) return;
    const isOther = wantedKind !== null && kindByExtension(path) !== wantedKind;
    // A picture is never guessed where a model was named.
    if (isOther && rule === 'name') return;
    const rank =
      linkRules.indexOf(rule) * 100_000 + (isOther ? 50_000 : 0) + distance(path, from) * 10 + sortRank(path);
    if (rank < bestRank) {
      // The level is left out, so it is not exact.
      best = { target: number, rule: written !== undefined && rule === 'exact' ? 'extension' : rule };
      bestRank = rank;
    }
  };
  stems.each(stem, (number) => consider(number));
  // `stage.v2` may be a whole name without its extension.
  const name = wanted.slice(wanted.lastIndexOf('/') + 1);
  if (best === null && stem !== name) stems.each(name, (number) => consider(number));
  // A model may be named without its level of detail: the finest one is meant.
  if (wantedKind === 'model' && (best === null || isOfOtherKind(index, best, 'model'))) {
    best = null;
    bestRank = Infinity;
    // As if it were written without its level.
    levels.each(name, (number) => consider(number, folderOf(index.path(number)) + name));
  }
  return best;
}

/** The kind of file that a name's extension promises; null where it promises none that is known. */
export function kindByExtension(path: string): Kind | null {
  const format = formatByExtension(path);
  return format && formatOf(format).kind;
}

/** The kind of file that a key speaks of. */
export function kindOfWhere(where: string): Kind | null {
  if (/model|mesh|placement/i.test(where)) return 'model';
  if (/tex|image|icon|picture|sprite|portrait|map_/i.test(where)) return 'picture';
  return /sound|audio|music|voice/i.test(where) ? 'sound' : null;
}

function isOfOtherKind(index: PathIndex, { target }: Resolved, kind: Kind): boolean {
  return kindByExtension(index.path(target)) !== kind;
}

/** Of files with the same name the one that people mean: the model before its texture, what is known before what is not. */
function sortRank(path: string): number {
  const kind = kindByExtension(path);
  return kind === 'model' ? 0 : kind === null ? 3 : kind === 'text' ? 2 : 1;
}

/** A path with leading `..` counts from the folder of who names it; null where it has none. */
function joinedTo(from: string, wanted: string, up: string): string | null {
  if (up === '') return null;
  const folders = from.split('/').slice(0, -1);
  const kept = folders.slice(0, Math.max(0, folders.length - up.length / 3));
  return [...kept, wanted.slice(up.length)].join('/');
}

function ruleFor(
  path: string,
  wanted: string,
  tail: string | null,
  hasExtension: boolean,
  sort: 'path' | 'name',
  from: string,
): LinkRule | null {
  if (sort === 'name') return 'name';
  // A name without a folder says something of its own folder only.
  if (tail === null && !wanted.includes('/') && folderOf(path) !== folderOf(from)) return 'name';
  if (endsIn(path, wanted) || path === tail) return 'exact';
  const bare = withoutExtension(path);
  const bareWanted = hasExtension ? withoutExtension(wanted) : wanted;
  if (endsIn(bare, bareWanted) || (tail !== null && bare === (hasExtension ? withoutExtension(tail) : tail)))
    return 'extension';
  const [foldedPath, foldedBare] = [path.toLowerCase(), bare.toLowerCase()];
  if (endsIn(foldedPath, wanted.toLowerCase()) || endsIn(foldedBare, bareWanted.toLowerCase())) return 'case';
  return 'name';
}

function folderOf(path: string): string {
  return path.slice(0, path.lastIndexOf('/') + 1);
}

/** Whether a path is another, or ends in it after a slash. */
function endsIn(path: string, end: string): boolean {
  return path.endsWith(end) && (path.length === end.length || path[path.length - end.length - 1] === '/');
}

export function withoutExtension(path: string): string {
  const extension = extensionOf(path);
  return extension === '' ? path : path.slice(0, -extension.length - 1);
}

/** Steps from one path's folder to another's. */
export function distance(a: string, b: string): number {
  const [left, right] = [a.split('/').slice(0, -1), b.split('/').slice(0, -1)];
  let same = 0;
  while (same < left.length && left[same] === right[same]) same++;
  return left.length + right.length - 2 * same;
}
