import type * as z from 'zod';
import type { namedAssetsSchema } from '../../contract/hauls.ts';
import { parseQuery } from '../../core/search/query.ts';
import type { Library } from '../library/library.ts';

const mostFamilies = 50;
const mostMembers = 5000;
const mostHits = 500;

/**
 * The whole thing that a name stands for: the families that are called so, or that the lexicon says are; else what a search finds
 * with its families.
 */
export async function findByName(
  library: Library,
  channelId: number,
  build: string,
  text: string,
): Promise<z.infer<typeof namedAssetsSchema>> {
  const { families } = await library.get('families', channelId, build, {
    text,
    offset: 0,
    limit: mostFamilies,
  });
  const plain = wordsOf(text);
  // One that is called exactly so is meant alone.
  const exact = families.filter(({ name, meaning }) =>
    [name, meaning].some((said) => wordsOf(said) === plain),
  );
  const meant = exact.length > 0 ? exact : families;
  const faces = meant.map(({ face }) => face.path);
  if (faces.length === 0) {
    const { assets } = await library.search(channelId, parseQuery(text), {
      ...{ build, offset: 0, limit: mostHits, most: mostHits },
      order: { by: 'path', isDescending: false },
    });
    faces.push(...assets.map(({ path }) => path));
  }
  const paths = new Set<string>();
  const names = new Set<string>();
  for (const face of faces) {
    if (paths.has(face)) continue;
    const family = await library.get('family', channelId, build, { path: face, most: mostMembers });
    paths.add(face);
    if (family) names.add(family.meaning || family.name);
    for (const { path } of family?.members ?? []) paths.add(path);
  }
  return { families: [...names], paths: [...paths] };
}

function wordsOf(text: string): string {
  return text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .sort()
    .join(' ');
}
