import { splitName, stemOf } from './split.ts';

/** Pictures that may be the ground of a map, the likeliest first. */
export interface MapGrounds {
  /** How high it is. */
  heights: string[];
  /** What it looks like from above. */
  pictures: string[];
}

/** Words of names and keys that say so. Common practice, with no published source. */
const heightWords: ReadonlySet<string> = new Set([
  ...[
    'height',
    'heights',
    'heightmap',
    'heightfield',
    'hmap',
    'hgt',
    'elevation',
    'dem',
    'relief',
    'terrain',
  ],
]);
const pictureWords: ReadonlySet<string> = new Set([
  ...['ground', 'terrain', 'minimap', 'overview', 'topdown', 'overhead', 'satellite', 'albedo', 'color'],
  ...['colour', 'diffuse', 'basecolor', 'map'],
]);
const most = 12;

/**
 * Which pictures are the ground of a map: those that it names itself before those that are called as it is.
 * @param candidates pictures of the build; `key` is under what the map names one, null where it does not
 */
export function groundsOf(
  map: string,
  candidates: readonly { path: string; key: string | null }[],
): MapGrounds {
  const own = splitName(stemOf(map));
  const folder = folderOf(map);
  const found = candidates.flatMap(({ path, key }) => {
    const parts = splitName(stemOf(path));
    const left = own.every((part) => parts.includes(part))
      ? parts.filter((part) => !own.includes(part))
      : null;
    // `isle_2_height` is of another isle; `height` beside it in its folder is its own.
    const isCalledSo = left !== null && left.length > 0 && left.every(isWord);
    const isBeside = folderOf(path) === folder && parts.every(isWord);
    if (key === null && !isCalledSo && !isBeside) return [];
    const words = [...parts, ...(key === null ? [] : splitName(key.split('.').at(-1) ?? ''))];
    return [{ path, words, rank: key !== null ? 0 : isCalledSo ? 1 : 2 }];
  });
  const chosen = (isSo: (words: readonly string[]) => boolean): string[] =>
    found
      .filter(({ words }) => isSo(words))
      .sort((a, b) => a.rank - b.rank || (a.path < b.path ? -1 : 1))
      .slice(0, most)
      .map(({ path }) => path);
  const isHeights = (words: readonly string[]): boolean => words.some((word) => heightWords.has(word));
  return {
    heights: chosen(isHeights),
    pictures: chosen((words) => words.some((word) => pictureWords.has(word)) && !isPlainlyHeights(words)),
  };
}

function isWord(part: string): boolean {
  return heightWords.has(part) || pictureWords.has(part);
}

/** `terrain` may be either. */
function isPlainlyHeights(words: readonly string[]): boolean {
  return words.some((word) => word !== 'terrain' && heightWords.has(word));
}

function folderOf(path: string): string {
  return path.slice(0, path.lastIndexOf('/') + 1);
}
