import type { Family, FamilyList, FamilyMember } from '../../contract/families.ts';
import { faceOf, finestOf, ladderOf, memberPartOf } from '../../core/names/family-members.ts';
import { meaningWith, type Lexicon } from '../../core/names/lexicon.ts';
import { listedAsset } from './search/find-assets.ts';
import type { BuildFamilies, BuildLibrary } from './build-library.ts';
import type { Questions } from './questions.ts';

/** The family that a file is in, with why each of its members is. */
export async function answerFamily(
  library: BuildLibrary,
  lexicon: Lexicon,
  { path, most }: Questions['family']['parameters'],
): Promise<Family | null> {
  const number = library.numberOf(path);
  if (number < 0) return null;
  const built = await library.families(lexicon);
  const { families, placeOf } = built;
  const family = families.familyOf(placeOf[number] ?? 0);
  const places = families.membersOf(family);
  const members = Array.from(places.subarray(0, most), (place) =>
    memberOf(library, lexicon, built, place),
  ).sort(
    (a, b) => kindOrder(a) - kindOrder(b) || (a.level ?? 0) - (b.level ?? 0) || (a.path < b.path ? -1 : 1),
  );
  const finest = finestOf(
    members.map((member) => ({
      member,
      kind: member.kind,
      triangles: member.figures.triangles ?? NaN,
      part: member,
    })),
  );
  for (const member of members) member.isFinest = members.length > 1 && finest?.member === member;
  const { name, folder } = families.nameOf(family);
  return { name, folder, meaning: meaningOf(name, lexicon), members, total: places.length };
}

/** Families of more than one member whose name, or what the lexicon says of it, holds some words. */
export async function answerFamilies(
  library: BuildLibrary,
  lexicon: Lexicon,
  { text, offset, limit }: Questions['families']['parameters'],
): Promise<FamilyList> {
  const built = await library.families(lexicon);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const list = built.families
    .list()
    .map((family) => ({ ...family, meaning: words.length > 0 ? meaningOf(family.name, lexicon) : '' }))
    .filter(({ name, meaning, folder }) => {
      const sayings = `${folder}/${name} ${meaning}`.toLowerCase();
      return words.every((word) => sayings.includes(word));
    });
  return {
    total: list.length,
    families: list.slice(offset, offset + limit).map(({ name, folder, members }) => {
      const kinds: Record<string, number> = {};
      const shown = Array.from(members.subarray(0, 200), (place) => memberOf(library, lexicon, built, place));
      for (const { kind } of shown) kinds[kind] = (kinds[kind] ?? 0) + 1;
      const face = faceOf(
        shown.map((member) => ({
          member,
          kind: member.kind,
          triangles: member.figures.triangles ?? NaN,
          hasPreview: member.hasPreview,
          part: member,
        })),
      )?.member;
      if (!face) throw new Error('answerFamilies: a family without members');
      return { name, folder, meaning: meaningOf(name, lexicon), files: members.length, kinds, face };
    }),
  };
}

function memberOf(
  library: BuildLibrary,
  lexicon: Lexicon,
  { numbers, families }: BuildFamilies,
  place: number,
): FamilyMember {
  const number = numbers[place] ?? 0;
  const { searchable, builds, sequence } = library;
  const asset = listedAsset(searchable, builds, number, library.spanOf(number), sequence);
  return {
    ...asset,
    ...memberPartOf(asset.path, asset.kind, lexicon),
    isFinest: false,
    ladder: asset.kind === 'model' ? ladderOf(asset.path, lexicon) : '',
    reasons: families.reasonsFor(place),
  };
}

const kindsInOrder = ['model', 'picture', 'clip', 'sound', 'text', 'map'];

function kindOrder({ kind }: FamilyMember): number {
  const place = kindsInOrder.indexOf(kind);
  return place < 0 ? kindsInOrder.length : place;
}

function meaningOf(name: string, lexicon: Lexicon): string {
  return lexicon
    .read(name.split('_'))
    .flatMap(({ entry, number }) => (entry && entry.meaning !== '' ? [meaningWith(entry, number)] : []))
    .join(', ');
}
