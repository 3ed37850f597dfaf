import type { Channel, TextureRole } from '../../contract/texture-sets.ts';
import { textureRoleSchema } from '../../contract/texture-sets.ts';
import { distance } from '../references/resolve.ts';
import { colourSpaceOf } from './common-parts.ts';
import { meaningWith, type Lexicon } from './lexicon.ts';
import { splitName, stemOf } from './split.ts';

export interface RoleChannel {
  role: TextureRole;
  channel: Channel;
}

/** What a picture’s name says that it is. */
export interface NamedPicture {
  path: string;
  role: TextureRole;
  /** Whether its name says its role; one that says none is taken for base colour. */
  isRoleSaid: boolean;
  /** Of packed channels: what lies in which. */
  channels: RoleChannel[];
  /** Parts that say whose it is. */
  of: string[];
  /** What it differs by from others of its role; empty for the plain one. */
  variant: string;
  /** Number of its palette; Infinity where it has none. */
  palette: number;
}

export interface NamedChoice extends NamedPicture {
  why: string;
  isSure: boolean;
}

export interface NamedSet {
  material: string;
  roles: { role: TextureRole; colourSpace: 'sRGB' | 'linear'; choices: NamedChoice[] }[];
}

const letters: Readonly<Record<string, TextureRole>> = {
  ...{ o: 'occlusion', a: 'occlusion', r: 'roughness', m: 'metalness', g: 'gloss', s: 'specular' },
  ...{ h: 'height', e: 'emission' },
};
const channels: readonly Channel[] = ['r', 'g', 'b', 'a'];
/** As glTF 2.0 packs them (3.9.2, 3.9.3), where a name does not say how. */
const usualOrder = 'orm';
const mostChoices = 12;

/** What lies in which channel, by the part that says so: `mra` is metalness, roughness, occlusion. Common practice. */
export function channelsOfPacked(part: string): RoleChannel[] {
  const said = part.length >= 2 && part.length <= 4 && [...part].every((letter) => letter in letters);
  return [...(said ? part : usualOrder)].flatMap((letter, at) => {
    const [role, channel] = [letters[letter], channels[at]];
    return role && channel ? [{ role, channel }] : [];
  });
}

/** Roles whose numbers are colours have a curve; all others are linear. */
export function spaceOfRole(role: TextureRole): 'sRGB' | 'linear' {
  return colourSpaceOf(role);
}

/** Reads a picture’s name. */
export function namedPictureOf(path: string, lexicon: Lexicon): NamedPicture {
  const of: string[] = [];
  const variants: string[] = [];
  let role: TextureRole | null = null;
  let packed = '';
  let palette = Infinity;
  let isPainted = false;
  lexicon.read(splitName(stemOf(path), lexicon.rules)).forEach(({ part, entry, number }, at) => {
    // What stands first says what a thing is: `mask_wall` is a mask.
    if (!entry || entry.role === 'code name' || entry.role === 'belongs to' || at === 0) {
      of.push(part);
      return;
    }
    if (entry.role === 'texture role') {
      const known = textureRoleSchema.safeParse(entry.meaning);
      if (!known.success) of.push(part);
      else {
        role = known.data;
        packed = part;
      }
      return;
    }
    if (entry.role === 'palette number') palette = number ?? Infinity;
    // Palettes and colours are those of base colours.
    if (entry.role === 'palette number' || entry.role === 'colour variant') isPainted = true;
    if (entry.role === 'LOD' || entry.role === 'language') return;
    variants.push(meaningWith(entry, number) || part);
  });
  return {
    ...{ path, of, palette, role: role ?? 'base colour', isRoleSaid: role !== null || isPainted },
    channels: role === 'packed channels' ? channelsOfPacked(packed) : [],
    variant: variants.join(', '),
  };
}

/** Words that names of materials have beside what they are of. Common practice. */
const materialWords: ReadonlySet<string> = new Set(
  'm mat mtl material materials mi shader surface'.split(' '),
);

/** Parts of a material’s name that say what it is of. */
export function partsOfMaterial(material: string, lexicon: Lexicon): string[] {
  // A material that is named after a picture has its extension, and often its role.
  const parts = splitName(stemOf(material), lexicon.rules);
  const of = lexicon.read(parts).flatMap(({ part, entry }, at) => {
    const isOther = at > 0 && entry !== null && entry.role !== 'code name' && entry.role !== 'belongs to';
    return isOther || materialWords.has(part) || /^\d+$/.test(part) ? [] : [part];
  });
  return of.length > 0 ? of : parts;
}

/**
 * Which pictures the materials of a model may wear, by their names: those named as the material, as the model with the
 * material, or as the model, where it has one material alone. The surest first; of several palettes the plain one, then the
 * first. Pictures that share less are no choices.
 */
export function textureSetsFor(
  model: string,
  materials: readonly string[],
  pictures: readonly NamedPicture[],
  lexicon: Lexicon,
): NamedSet[] {
  const modelParts = partsOfMaterial(stemOf(model), lexicon);
  return materials.map((material) => {
    const parts = partsOfMaterial(material, lexicon);
    const byRole = new Map<TextureRole, { choice: NamedChoice; rank: number }[]>();
    for (const picture of pictures) {
      const found = rankOf(picture, parts, modelParts, materials.length === 1);
      if (!found) continue;
      const list = byRole.get(picture.role) ?? [];
      byRole.set(picture.role, list);
      const { rank, why, isSure } = found;
      list.push({ rank, choice: { ...picture, why, isSure } });
    }
    return {
      material,
      roles: textureRoleSchema.options.flatMap((role) => {
        const list = byRole.get(role);
        if (!list) return [];
        list.sort(
          (a, b) =>
            a.rank - b.rank ||
            Number(a.choice.variant !== '') - Number(b.choice.variant !== '') ||
            a.choice.palette - b.choice.palette ||
            distance(a.choice.path, model) - distance(b.choice.path, model) ||
            (a.choice.path < b.choice.path ? -1 : 1),
        );
        const choices = list.slice(0, mostChoices).map(({ choice }) => choice);
        return [{ role, colourSpace: spaceOfRole(role), choices }];
      }),
    };
  });
}

function rankOf(
  { of, isRoleSaid }: NamedPicture,
  material: readonly string[],
  model: readonly string[],
  isOnlyMaterial: boolean,
): { rank: number; why: string; isSure: boolean } | null {
  const isIn = (some: readonly string[], all: readonly string[]): boolean =>
    some.length > 0 && some.every((part) => all.includes(part));
  const isSame = (a: readonly string[], b: readonly string[]): boolean => isIn(a, b) && isIn(b, a);
  const unsaid = isRoleSaid ? '' : '; its name says no role';
  // A role that nobody says is a guess, which takes the very name.
  if (isSame(of, material)) return { rank: 0, why: `named as the material${unsaid}`, isSure: true };
  if (isOnlyMaterial && isSame(of, model))
    return { rank: 1, why: `named as the model${unsaid}`, isSure: true };
  if (!isRoleSaid) return null;
  if (isIn(material, of) && of.every((part) => material.includes(part) || model.includes(part)))
    return { rank: 2, why: 'named as the model with the material', isSure: true };
  if (isIn(of, material) && material.every((part) => of.includes(part) || model.includes(part)))
    return { rank: 3, why: 'named as a part of the material’s name', isSure: false };
  if (isSame(of, model)) return { rank: 4, why: 'named as the model', isSure: false };
  if (isIn(material, of)) return { rank: 5, why: 'its name has the material’s', isSure: false };
  if (isIn(model, of)) return { rank: 6, why: 'its name has the model’s', isSure: false };
  return null;
}

/** Variants that there are among the pictures of sets, the first ones first. */
export function palettesOf(sets: readonly NamedSet[]): string[] {
  const found = new Map<string, number>();
  for (const { roles } of sets)
    for (const { choices } of roles)
      for (const { variant, palette, isSure } of choices)
        if (variant !== '' && isSure) found.set(variant, Math.min(palette, found.get(variant) ?? Infinity));
  return [...found].sort((a, b) => a[1] - b[1] || (a[0] < b[0] ? -1 : 1)).map(([variant]) => variant);
}
