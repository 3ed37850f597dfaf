import type { SpokenStrings } from '../../../contract/voices.ts';
import { parseQuery } from '../../../core/search/query.ts';
import { dataOf } from '../../../core/kinds/text/data-tree.ts';
import { decodeText } from '../../../core/kinds/text/decode.ts';
import { languageCodes, languageOfPath } from '../../../core/kinds/text/language.ts';
import { soundStem, spokenIn } from '../../../core/kinds/text/spoken.ts';
import { isReadError } from '../../../core/kinds/reading.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { readLocal } from '../../store/local-content.ts';
import type { Library } from '../library.ts';
import { pathOrder } from '../search/find-assets.ts';

/** So many texts that name a sound are looked into, and of each no more than this: whoever listens does not wait for more. */
const mostTexts = 20;
const mostBytes = 4 * 1024 * 1024;
const mostStrings = 40;
/** Shorter names are in every text. */
const leastLetters = 3;

/** Strings of a build that belong to a sound, from tables and definitions that name it. */
export async function findSpoken(
  { library, store }: { library: Library; store: ContentStore },
  channel: number,
  build: string,
  path: string,
): Promise<SpokenStrings> {
  const stem = soundStem(path);
  if (stem.length < leastLetters || /["\s]/.test(stem)) return [];
  const { assets } = await library.search(channel, parseQuery(`kind:text text:${stem}`), {
    ...{ build, offset: 0, limit: mostTexts, most: mostTexts, order: pathOrder },
  });
  const found: SpokenStrings = [];
  for (const { path: at, hash, format, size } of assets) {
    if (hash === null || (size ?? 0) > mostBytes) continue;
    const text = decodeText(await readLocal(await store.getLocal(hash))).text;
    // A text that is damaged says nothing here; its own page says what is wrong with it.
    const { data } = await dataOf(text, format).catch((error: unknown) => {
      if (isReadError(error)) return { data: null };
      throw error;
    });
    for (const { key, text: says } of data ? spokenIn(data, stem) : [])
      found.push({
        ...{ path: at, key, text: says },
        language: languageCodes.has(key.toLowerCase()) ? key.toLowerCase() : languageOfPath(at),
      });
    if (found.length >= mostStrings) break;
  }
  return found.slice(0, mostStrings);
}
