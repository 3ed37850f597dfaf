import type { TextureSets } from '../../contract/texture-sets.ts';
import type { Lexicon } from '../../core/names/lexicon.ts';
import { stemOf } from '../../core/names/split.ts';
import {
  namedPictureOf,
  palettesOf,
  partsOfMaterial,
  textureSetsFor,
  type NamedPicture,
} from '../../core/names/texture-sets.ts';
import { candidatesFor } from '../../core/references/candidates.ts';
import { kindByExtension, kindOfWhere } from '../../core/references/resolve.ts';
import { termOf } from '../../core/search/path-index.ts';
import type { BuildLibrary } from './build-library.ts';
import type { Questions } from './questions.ts';
import { listedAsset } from './search/find-assets.ts';

/** So many names are looked at for one material, and so many in all: words that stand everywhere end there. */
const mostLookedAt = 3000;
const mostInAll = 50_000;
const mostMissing = 100;
const fewestLetters = 3;
/** Whoever looks at a model of two thousand materials gets what was found by then. */
const mostMs = 1500;

/** Which pictures of a build the materials of a model may wear. */
export async function answerTextureSets(
  library: BuildLibrary,
  lexicon: Lexicon,
  { path, materials, said }: Questions['textureSets']['parameters'],
): Promise<TextureSets | null> {
  const number = library.numberOf(path);
  if (number < 0) return null;
  const { searchable, builds, sequence } = library;
  const { index } = searchable;
  const pictures = new Map<number, NamedPicture>();
  const add = (at: number): void => {
    const span = library.spanOf(at);
    if (span >= 0 && !pictures.has(at) && library.kindOf(span) === 'picture')
      pictures.set(at, namedPictureOf(index.path(at), lexicon));
  };
  const { families, placeOf, numbers } = await library.families(lexicon);
  for (const place of families.membersOf(families.familyOf(placeOf[number] ?? 0))) add(numbers[place] ?? 0);
  let left = mostInAll;
  const end = performance.now() + mostMs;
  for (const name of new Set([...materials, stemOf(path)])) {
    let looks = 0;
    // Shorter parts stand in every name: looking for them would go through all of a build.
    const parts = partsOfMaterial(name, lexicon).filter((part) => part.length >= fewestLetters);
    if (parts.length === 0) continue;
    index.find(parts.map(termOf), [], (at) => {
      add(at);
      return ++looks < mostLookedAt && --left > 0;
    });
    if (left <= 0 || performance.now() > end) break;
  }
  const sets = textureSetsFor(path, materials, [...pictures.values()], lexicon);
  const graph = await library.graph(lexicon);
  const isThere = (at: number): boolean => library.spanOf(at) >= 0;
  const isPicture = (text: string, where: string): boolean =>
    (kindByExtension(text) ?? kindOfWhere(where)) === 'picture';
  return {
    materials: sets.map(({ material, roles }) => ({
      material,
      roles: roles.map(({ role, colourSpace, choices }) => ({
        ...{ role, colourSpace },
        choices: choices.map(({ path: at, variant, why, isSure, channels }) => {
          const picture = index.numberOf(at);
          const listed = listedAsset(searchable, builds, picture, library.spanOf(picture), sequence);
          const { hash, format, hasPreview, size } = listed;
          return { path: at, hash, format, hasPreview, sizeBytes: size, variant, why, isSure, channels };
        }),
      })),
    })),
    said: said.map((one) => ({
      ...one,
      isThere: one.texture !== null && library.numberOf(one.texture) >= 0,
      channels: one.texture === null ? [] : namedPictureOf(one.texture, lexicon).channels,
    })),
    palettes: palettesOf(sets),
    missing: graph.missing
      .filter(({ from, mention }) => from === number && isPicture(mention.text, mention.where))
      .slice(0, mostMissing)
      .map(({ mention: { text, where } }) => ({
        ...{ text, where },
        candidates: candidatesFor(index, isThere, text, path, where).map(
          ({ path: at, isCertain, reason }) => ({ path: at, isCertain, reason }),
        ),
      })),
  };
}
