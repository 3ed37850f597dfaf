import type { Lexicon } from '../names/lexicon.ts';
import { nameWithoutLevel } from '../names/family-members.ts';
import { PathIndex } from '../search/path-index.ts';
import { makePathTables } from '../search/path-tables.ts';
import type { Places } from './resolve.ts';
import { StemIndex } from './stem-index.ts';

/** Where mentions are looked up, made of nothing but the paths of a build. */
export function placesOfPaths(paths: readonly string[], lexicon: Lexicon): Places {
  const index = new PathIndex(makePathTables([...paths].sort()));
  return {
    index,
    stems: new StemIndex(index),
    levels: new StemIndex(index, (path) => nameWithoutLevel(path, lexicon)),
    isThere: () => true,
  };
}
