import type { Kind } from '../../contract/kinds.ts';
import { formatByExtension, formatOf } from '../kinds/formats.ts';
import { colourSpaceOf } from './common-parts.ts';
import { meaningWith, type Lexicon } from './lexicon.ts';
import { splitName, stemOf } from './split.ts';

/** What a file is in its family. */
export interface MemberPart {
  /** Level of detail: 0, or none, is the finest (common practice, no published source). Null for what has none. */
  level: number | null;
  textureRole: string | null;
  /** Of textures whose role is known: data is linear (common practice, no published source). */
  colourSpace: 'sRGB' | 'linear' | null;
  /** What else its name says that it is: its view, its colour, its language … */
  variants: string[];
}

/** Reads from a file's name what it is in its family. */
export function memberPartOf(path: string, kind: Kind, lexicon: Lexicon): MemberPart {
  const part: MemberPart = { level: null, textureRole: null, colourSpace: null, variants: [] };
  for (const { entry, number } of lexicon.read(splitName(stemOf(path), lexicon.rules))) {
    if (!entry) continue;
    switch (entry.role) {
      case 'LOD':
        part.level = number;
        break;
      case 'texture role':
        if (kind === 'picture') {
          part.textureRole = entry.meaning === '' ? entry.part : entry.meaning;
          part.colourSpace = entry.meaning === '' ? null : colourSpaceOf(entry.meaning);
        }
        break;
      case 'code name':
      case 'belongs to':
        break;
      default:
        part.variants.push(meaningWith(entry, number) === '' ? entry.part : meaningWith(entry, number));
    }
  }
  if (kind === 'model') part.level ??= 0;
  return part;
}

/** The name of a model that has a level of detail, in lower case and without it; nothing of all others. */
export function nameWithoutLevel(path: string, lexicon: Lexicon): string {
  const format = formatByExtension(path);
  if (format === null || formatOf(format).kind !== 'model') return '';
  const stem = stemOf(path).toLowerCase();
  const parts = lexicon.read(splitName(stemOf(path), lexicon.rules));
  const level = parts.find(({ entry }) => entry?.role === 'LOD');
  if (!level || parts.length === 1) return '';
  const at = stem.lastIndexOf(level.part);
  const separators = lexicon.rules.separators;
  const begin = separators.includes(stem[at - 1] ?? '-') ? Math.max(0, at - 1) : at;
  return stem.slice(0, begin) + stem.slice(at + level.part.length);
}

/** What all levels of detail of one model are called: its name without a level, in lower case. */
export function ladderOf(path: string, lexicon: Lexicon): string {
  return nameWithoutLevel(path, lexicon) || stemOf(path).toLowerCase();
}

/**
 * The finest model of a family: the one with the lowest level, and of these the one with most triangles.
 * @param triangles NaN where nobody knows
 */
export function finestOf<Member extends { part: MemberPart; kind: Kind; triangles: number }>(
  members: readonly Member[],
): Member | null {
  let finest: Member | null = null;
  for (const member of members) {
    if (member.kind !== 'model') continue;
    const [level, least] = [member.part.level ?? 0, finest?.part.level ?? 0];
    const more = (member.triangles || 0) > (finest?.triangles || 0);
    if (finest === null || level < least || (level === least && more)) finest = member;
  }
  return finest;
}

/**
 * What stands for a family at a glance: the finest model, else what a surface looks like, before pictures that say something else
 * of it. @returns null for none
 */
export function faceOf<
  Member extends { part: MemberPart; kind: Kind; triangles: number; hasPreview: boolean },
>(members: readonly Member[]): Member | null {
  const seen = members.filter(({ hasPreview }) => hasPreview);
  const colours = seen.find(({ part }) => part.textureRole === 'base colour');
  const plain = seen.find(({ part }) => part.textureRole === null);
  return finestOf(members) ?? colours ?? plain ?? seen[0] ?? members[0] ?? null;
}
