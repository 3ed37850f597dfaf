import { byFormatId } from '../../../core/kinds/formats.ts';
import { decodeText } from '../../../core/kinds/text/decode.ts';
import { PathIndex, type Term } from '../../../core/search/path-index.ts';
import { makePathTables } from '../../../core/search/path-tables.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { LocalReader } from '../../store/local-content.ts';
import { readArrays, writeArrays, type Numbers } from './array-file.ts';

/** Longer texts are looked through to here. */
const longestBytes = 1024 * 1024;
/** So much text is kept for searching; what comes after it is not found by its words. */
const mostBytes = 256 * 1024 * 1024;

/**
 * Makes the tables that find texts of a channel by what they hold, and writes them to a file.
 * @param tables file of the channel's tables, made of the same builds
 * @returns whether these are there
 */
export async function writeTextTables(
  store: ContentStore,
  tables: string,
  file: string,
  key: string,
): Promise<boolean> {
  const parts = await readArrays(tables, key, (name) => name === 'states.format' || name === 'hashes');
  const format = parts?.get('states.format');
  const hashes = parts?.get('hashes');
  if (!format || !(hashes instanceof Uint8Array)) return false;
  const isText = byFormatId(({ kind }) => kind === 'text' || kind === 'map');
  const wanted = new Set<string>();
  for (let span = 0; span < format.length; span++)
    if (isText[format[span] ?? 0]) wanted.add(hashAt(hashes, span));
  const reader = new LocalReader();
  const texts: string[] = [];
  const found: string[] = [];
  let bytes = 0;
  const all = [...wanted];
  for (let from = 0; from < all.length && bytes < mostBytes; from += 1000)
    for (const [hash, content] of await store.ensureLocal(all.slice(from, from + 1000))) {
      const size = Math.min(content.size, longestBytes);
      bytes += size;
      texts.push(decodeText(reader.read(content, 0, size)).text.toLowerCase());
      found.push(hash);
    }
  reader.close();
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
  return true;
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
