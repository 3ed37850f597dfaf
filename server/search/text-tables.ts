import { formats } from '../../core/kinds/formats.ts';
import { decodeText } from '../../core/kinds/text/decode.ts';
import { PathIndex, makePathTables, type Term } from '../../core/search/path-index.ts';
import type { Pool } from '../database/pool.ts';
import { ContentReader, findContents } from '../store/read-content.ts';
import { readArrays, writeArrays, type Numbers } from './array-file.ts';
import type { SearchTables } from './search-tables.ts';

/** Longer texts are looked through to here. */
const longestBytes = 1024 * 1024;
/** So much text is kept for searching; what comes after it is not found by its words. */
const mostBytes = 256 * 1024 * 1024;

/** Makes the tables that find texts of a channel by what they hold, and writes them to a file. */
export async function writeTextTables(
  pool: Pool,
  store: string,
  { states, hashes }: SearchTables,
  file: string,
  key: string,
): Promise<void> {
  const isText = formats.map(({ kind }) => kind === 'text' || kind === 'map');
  const wanted = new Set<string>();
  for (let span = 0; span < states.format.length; span++)
    if (isText[states.format[span] ?? 0]) wanted.add(hashAt(hashes, span));
  const reader = new ContentReader(store);
  const texts: string[] = [];
  const found: string[] = [];
  let bytes = 0;
  for (const [hash, place] of await findContents(pool, [...wanted])) {
    if (bytes >= mostBytes) break;
    const size = Math.min(place.size, longestBytes);
    bytes += size;
    texts.push(decodeText(reader.read({ ...place, size })).text.toLowerCase());
    found.push(hash);
  }
  const { folded, foldedAt, grams, listAt, lists } = makePathTables(texts);
  writeArrays(
    file,
    key,
    new Map<string, Numbers>([
      ['folded', folded],
      ['foldedAt', foldedAt],
      ['grams', grams],
      ['listAt', listAt],
      ['lists', lists],
      ['hashes', new Uint8Array(Buffer.from(found.join(''), 'hex'))],
    ]),
  );
}

export function hashAt(hashes: Uint8Array, span: number): string {
  return Buffer.from(hashes.slice(span * 32, span * 32 + 32)).toString('hex');
}

/** Finds texts of a channel by what they hold. */
export class TextTables {
  private readonly index: PathIndex;
  private readonly hashes: Uint8Array;

  private constructor(index: PathIndex, hashes: Uint8Array) {
    this.index = index;
    this.hashes = hashes;
  }

  /** @returns null where there are none that were made of the same builds */
  static async open(file: string, key: string): Promise<TextTables | null> {
    const parts = await readArrays(file, key);
    if (!parts) return null;
    const part = (name: string): never => (parts.get(name) ?? new Uint8Array(0)) as never;
    return new TextTables(
      new PathIndex({
        text: part('folded'),
        textAt: part('foldedAt'),
        folded: part('folded'),
        foldedAt: part('foldedAt'),
        grams: part('grams'),
        listAt: part('listAt'),
        lists: part('lists'),
      }),
      part('hashes'),
    );
  }

  /** Hashes of the texts that hold it. */
  holding(term: Term): Set<string> {
    const found = new Set<string>();
    this.index.find([term], [], (number) => {
      found.add(hashAt(this.hashes, number));
      return true;
    });
    return found;
  }
}
