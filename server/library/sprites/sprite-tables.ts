import type { SpriteTables } from '../../../contract/sprites.ts';
import { isReadError } from '../../../core/kinds/reading.ts';
import { dataOf } from '../../../core/kinds/text/data-tree.ts';
import { decodeText } from '../../../core/kinds/text/decode.ts';
import { framesWithin, spriteFramesIn } from '../../../core/kinds/text/sprite-frames.ts';
import { stemOf } from '../../../core/names/split.ts';
import { parseQuery, type Query } from '../../../core/search/query.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { readLocal } from '../../store/local-content.ts';
import type { Library } from '../library.ts';
import { pathOrder } from '../search/find-assets.ts';

/** So many texts are looked into, and of each no more than this: whoever looks does not wait for more. */
const mostTexts = 20;
const mostBytes = 8 * 1024 * 1024;
const structured: ReadonlySet<string> = new Set(['json', 'xml', 'yaml', 'csv', 'ini', 'strings']);

/** Tables of a build that cut a picture into frames: those that name it, and those that are called as it is. */
export async function findSpriteTables(
  { library, store }: { library: Library; store: ContentStore },
  channel: number,
  build: string,
  path: string,
  picture: { width: number; height: number },
): Promise<SpriteTables> {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const stem = stemOf(path);
  if (/["\s]/.test(name) || stem.length < 2) return [];
  const search = async (query: Query) =>
    (
      await library.search(channel, query, {
        ...{ build, offset: 0, limit: mostTexts, most: mostTexts, order: pathOrder },
      })
    ).assets;
  const texts = new Map<string, { why: string; hash: string; format: string }>();
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  const add = (assets: Awaited<ReturnType<typeof search>>, why: string): void => {
    for (const { path: at, hash, format, size } of assets)
      if (hash !== null && structured.has(format) && (size ?? 0) <= mostBytes && !texts.has(at))
        texts.set(at, { why, hash, format });
  };
  const beside = await search(parseQuery(`kind:text ${stem}`));
  add(
    beside.filter(({ path: at }) => at.startsWith(folder) && stemOf(at).toLowerCase() === stem.toLowerCase()),
    'it is called as the picture',
  );
  add(await search(parseQuery(`kind:text text:${name}`)), 'it names the picture');
  const tables: SpriteTables = [];
  for (const [at, { why, hash, format }] of [...texts].slice(0, mostTexts)) {
    const text = decodeText(await readLocal(await store.getLocal(hash))).text;
    // A text that is damaged says nothing here; its own page says what is wrong with it.
    const { data } = await dataOf(text, format).catch((error: unknown) => {
      if (isReadError(error)) return { data: null };
      throw error;
    });
    const { frames, outside } = framesWithin(data ? spriteFramesIn(data) : [], picture);
    // A table of something else has numbers that fit by chance.
    if (frames.length > 0 && outside <= frames.length) tables.push({ path: at, why, frames, outside });
  }
  return tables.sort((a, b) => b.frames.length - a.frames.length);
}
