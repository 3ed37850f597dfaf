import { byFormatId } from '../../../core/kinds/formats.ts';
import { decodeText } from '../../../core/kinds/text/decode.ts';
import { PathIndex, type Term } from '../../../core/search/path-index.ts';
import { makeGramTables, TextColumn } from '../../../core/search/path-tables.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { LocalReader } from '../../store/local-content.ts';
import { readArrays, writeArrays, type Numbers } from './array-file.ts';

/** Longer texts are looked through to here. */
const longestBytes = 1024 * 1024;
/** So much text is kept for searching; what comes after it is not found by its words. */
const mostBytes = 256 * 1024 * 1024;

const columns: ReadonlySet<string> = new Set(['states.format', 'figures.size', 'hashes']);

/**
 * Makes the tables that find texts of a channel by what they hold, and writes them to a file.
 * @param tables file of the channel's tables
 * @param key of the builds that these were made of
 * @returns whether these are there
 */
export async function writeTextTables(
  store: ContentStore,
  tables: string,
  file: string,
  key: string,
): Promise<boolean> {
  const parts = await readArrays(tables, key, (name) => columns.has(name));
  const format = parts?.get('states.format');
  const sizes = parts?.get('figures.size');
  const hashes = parts?.get('hashes');
  if (!format || !sizes || !(hashes instanceof Uint8Array)) return false;
  const isText = byFormatId(({ kind }) => kind === 'text' || kind === 'map');
  const wanted = new Map<string, number>();
  for (let span = 0; span < format.length; span++)
    if (isText[format[span] ?? 0]) wanted.set(hashAt(hashes, span), Math.min(longestBytes, sizes[span] || 0));
  const expected = [...wanted.values()].reduce((sum, size) => sum + size, 0);
  const texts = new TextColumn(Math.min(mostBytes + longestBytes, expected));
  const reader = new LocalReader();
  const found: string[] = [];
  let bytes = 0;
  const all = [...wanted.keys()];
  for (let from = 0; from < all.length && bytes < mostBytes; from += 1000)
    for (const [hash, content] of await store.ensureLocal(all.slice(from, from + 1000))) {
      const size = Math.min(content.size, longestBytes);
      bytes += size;
      texts.add(decodeText(reader.read(content, 0, size)).text.toLowerCase());
      found.push(hash);
    }
  reader.close();
  const { bytes: folded, at: foldedAt } = texts.finish();
  const { grams, listAt, lists } = makeGramTables(folded, foldedAt);
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

  /** @returns null where there are none, or they are damaged */
  static async open(file: string): Promise<TextTables | null> {
    const parts = await readArrays(file, null);
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
