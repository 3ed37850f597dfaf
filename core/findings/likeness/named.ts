import type { SplitRules } from '../../../contract/names.ts';
import { splitName, stemOf } from '../../names/split.ts';
import type { LikenessItem } from './pair.ts';

/** What the path of an item says. */
export interface Named {
  item: LikenessItem;
  stem: string;
  /** Each once. */
  parts: readonly string[];
  numbers: readonly string[];
  folder: string;
  folders: readonly string[];
  ending: string;
}

export const namedBy =
  (rules: SplitRules) =>
  (item: LikenessItem): Named => {
    const { path } = item;
    const name = path.slice(path.lastIndexOf('/') + 1);
    const stem = stemOf(path).toLowerCase();
    const parts = [...new Set(splitName(stemOf(path), rules))];
    const folder = path.slice(0, Math.max(0, path.lastIndexOf('/')));
    return {
      item,
      stem,
      parts,
      numbers: parts.filter((part) => /^\d+$/.test(part)),
      folder,
      folders: folder.split('/'),
      ending: name.slice(stem.length).toLowerCase(),
    };
  };

/** How much a part of a name says, in bits: the rarer, the more. */
export type PartWeights = ReadonlyMap<string, number>;

export function partWeights(olds: readonly Named[], news: readonly Named[]): PartWeights {
  const counts = new Map<string, number>();
  for (const { parts } of [...olds, ...news])
    for (const part of parts) counts.set(part, (counts.get(part) ?? 0) + 1);
  const total = olds.length + news.length;
  return new Map([...counts].map(([part, count]) => [part, Math.log2(1 + total / count)]));
}

/** How alike two paths are, by several measures from 0 to 1, where 1 is no difference. */
export const nameMeasures = [
  'same name',
  'parts of the name',
  'what they share',
  'same numbers',
  'folders',
  'same folder',
  'size',
  'same ending',
] as const;

export function nameLikeness(old: Named, now: Named, weights: PartWeights): number[] {
  let [common, all] = [0, 0];
  for (const part of old.parts) {
    const weight = weights.get(part) ?? 1;
    all += weight;
    if (now.parts.includes(part)) common += weight;
  }
  for (const part of now.parts) if (!old.parts.includes(part)) all += weights.get(part) ?? 1;
  const sameNumbers =
    old.numbers.length === now.numbers.length && old.numbers.every((number) => now.numbers.includes(number));
  const isSame = old.stem === now.stem;
  return [
    isSame ? 1 : 0,
    isSame ? 1 : all === 0 ? 0 : common / all,
    Math.min(1, common / mostShared),
    sameNumbers ? 1 : 0,
    folderLikeness(old, now),
    old.folder === now.folder ? 1 : 0,
    sizeLikeness(old.item.size, now.item.size),
    old.ending === now.ending ? 1 : 0,
  ];
}

/** More bits than this say no more. */
const mostShared = 30;

/** Share of folders from the top and from the end that are the same. */
function folderLikeness(old: Named, now: Named): number {
  if (old.folder === now.folder) return 1;
  const [a, b] = [old.folders, now.folders];
  const least = Math.min(a.length, b.length);
  let top = 0;
  while (top < least && a[top] === b[top]) top++;
  let end = 0;
  while (end < least - top && a[a.length - 1 - end] === b[b.length - 1 - end]) end++;
  return ((top + end) / Math.max(a.length, b.length)) * 0.95;
}

function sizeLikeness(a: number | null, b: number | null): number {
  if (a === null || b === null || a + b === 0) return 0.5;
  return Math.min(a, b) / Math.max(1, a, b);
}
