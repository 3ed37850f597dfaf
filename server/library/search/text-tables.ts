import { randomUUID } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import * as z from 'zod';
import { byFormatId } from '../../../core/kinds/formats.ts';
import { decodeText } from '../../../core/kinds/text/decode.ts';
import type { Term } from '../../../core/search/gram-lists.ts';
import { PathColumn } from '../../../core/search/path-column.ts';
import { PathIndex } from '../../../core/search/path-index.ts';
import { firstTables, noGrams, type GramTables } from '../../../core/search/path-tables.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { PlainError } from '../../platform/plain-error.ts';
import { LocalReader } from '../../store/local-content.ts';
import { readArrays, writeArrays, type Numbers } from './array-file.ts';

/** Longer texts are looked through to here. */
const longestBytes = 1024 * 1024;
/** So much text is kept for searching; what comes after it is not found by its words. */
const mostBytes = 256 * 1024 * 1024;
/** A part holds about so much: while it is made it is in memory with what finds its texts. */
const partBytes = 24 * 1024 * 1024;
/** Texts that come with builds are added in parts; when so many of them are small, these are made again as one. */
const mostSmallParts = 6;

/** The file of a channel's texts names the files of its parts, which stay as they are. */
const partsSchema = z.object({
  parts: z.array(
    z.object({ name: z.string().regex(/^[\w-]+\.part$/), texts: z.number(), bytes: z.number() }),
  ),
});
type TextPart = z.infer<typeof partsSchema>['parts'][number];

const columns: ReadonlySet<string> = new Set(['states.format', 'figures.size', 'hashes']);

/**
 * Makes the tables that find texts of a channel by what they hold, and writes them to files: of those that were there before,
 * only what is new.
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
  const wanted = await wantedTexts(tables, key);
  if (!wanted) return false;
  const own = /^channel-\d+-/.exec(basename(file))?.[0] ?? '';
  const place = dirname(file);
  const earlier = earlierParts(place, own);
  const known = await knownParts(place, earlier);
  const held = new Set(known.flatMap(({ hashes }) => hashes));
  const left = [...held].filter((hash) => wanted.has(hash)).length;
  const isMostlyNew = wanted.size - left > left || left < held.size / 2;
  const small = known.filter(({ bytes }) => bytes < partBytes / 2);
  const isOften = small.length >= mostSmallParts;
  // Where most is new, or little of what is kept is still wanted, everything is made anew.
  const stay = isMostlyNew ? [] : known.filter((part) => !isOften || !small.includes(part));
  const parts: TextPart[] = stay.map(({ name, texts, bytes }) => ({ name, texts, bytes }));
  const there = new Set(stay.flatMap(({ hashes }) => hashes));
  const texts = [...wanted].filter(([hash]) => !there.has(hash));
  let room = mostBytes - parts.reduce((sum, { bytes }) => sum + bytes, 0);
  for (let at = 0; at < texts.length && room > 0;) {
    let bytes = 0;
    const begin = at;
    while (at < texts.length && bytes < Math.min(room, partBytes)) bytes += texts[at++]?.[1] ?? 0;
    parts.push(await writePart(store, texts.slice(begin, at), join(place, `${own}${randomUUID()}.part`)));
    room -= bytes;
  }
  const unfinished = `${file}.${randomUUID()}.new`;
  writeFileSync(unfinished, JSON.stringify({ parts }), { mode: 0o600 });
  renameSync(unfinished, file);
  const kept = new Set([basename(file), ...parts.map(({ name }) => name)]);
  for (const name of readdirSync(place)) {
    if (!name.startsWith(own) || !/\.(texts|part)$/.test(name) || kept.has(name)) continue;
    // A part that nobody names yet may be another process's, which is at work as this one is.
    const age = Date.now() - (statSync(join(place, name), { throwIfNoEntry: false })?.mtimeMs ?? 0);
    const isDone = name.endsWith('.texts') || earlier.some((part) => part.name === name);
    if (isDone || age > 3_600_000) rmSync(join(place, name), { force: true });
  }
  return true;
}

/** Whether texts' tables are there with all their parts. */
export function areTextsThere(file: string): boolean {
  return readParts(file)?.every(({ name }) => existsSync(join(dirname(file), name))) ?? false;
}

/** Hashes of the texts of a channel, with how much of each is looked through. */
async function wantedTexts(tables: string, key: string): Promise<Map<string, number> | null> {
  const arrays = await readArrays(tables, key, (name) => columns.has(name));
  const format = arrays?.get('states.format');
  const sizes = arrays?.get('figures.size');
  const hashes = arrays?.get('hashes');
  if (!format || !sizes || !(hashes instanceof Uint8Array)) return null;
  const isText = byFormatId(({ kind }) => kind === 'text' || kind === 'map');
  const wanted = new Map<string, number>();
  for (let span = 0; span < format.length; span++)
    if (isText[format[span] ?? 0]) wanted.set(hashAt(hashes, span), Math.min(longestBytes, sizes[span] || 0));
  return wanted;
}

/** Parts of the texts that were written last, also of such as are damaged. */
function earlierParts(place: string, own: string): TextPart[] {
  for (const name of readdirSync(place)) {
    const parts = name.startsWith(own) && name.endsWith('.texts') ? readParts(join(place, name)) : null;
    if (parts) return parts;
  }
  return [];
}

/** Those of them that are whole, with the hashes of what they hold. */
async function knownParts(
  place: string,
  parts: readonly TextPart[],
): Promise<(TextPart & { hashes: string[] })[]> {
  const known: (TextPart & { hashes: string[] })[] = [];
  for (const part of parts) {
    const arrays = await readArrays(join(place, part.name), null, (column) => column === 'hashes');
    const hashes = arrays?.get('hashes');
    if (hashes instanceof Uint8Array)
      known.push({
        ...part,
        hashes: Array.from({ length: hashes.length / 32 }, (_, number) => hashAt(hashes, number)),
      });
  }
  return known;
}

/** @returns null where there are none, or they are damaged */
function readParts(file: string): TextPart[] | null {
  try {
    return partsSchema.parse(JSON.parse(readFileSync(file, 'utf8'))).parts;
  } catch {
    // They are made again.
    return null;
  }
}

async function writePart(
  store: ContentStore,
  wanted: readonly (readonly [hash: string, bytes: number])[],
  file: string,
): Promise<TextPart> {
  const column = new PathColumn(wanted.reduce((sum, [, size]) => sum + size, 0));
  const reader = new LocalReader();
  const found: string[] = [];
  let bytes = 0;
  for (let from = 0; from < wanted.length; from += 1000)
    for (const [hash, content] of await store.ensureLocal(
      wanted.slice(from, from + 1000).map(([hash]) => hash),
    )) {
      const size = Math.min(content.size, longestBytes);
      bytes += size;
      column.add(decodeText(reader.read(content, 0, size)).text.toLowerCase());
      found.push(hash);
    }
  reader.close();
  const { text, begin, end } = column.finish();
  const { first } = firstTables({ text, begin, end, foldedBegin: begin, foldedEnd: end });
  writeArrays(
    file,
    '',
    new Map<string, Numbers>([
      ['text', text],
      ['begin', begin],
      ['end', end],
      ...Object.entries(first).map(([name, array]): [string, Numbers] => [name, array as Numbers]),
      ['hashes', new Uint8Array(Buffer.from(found.join(''), 'hex'))],
    ]),
  );
  return { name: basename(file), texts: found.length, bytes };
}

export function hashAt(hashes: Uint8Array, span: number): string {
  return Buffer.from(hashes.slice(span * 32, span * 32 + 32)).toString('hex');
}

interface OpenPart {
  index: PathIndex;
  hashes: Uint8Array;
}

/** Finds texts of a channel by what they hold. */
export class TextTables {
  private readonly parts: ReadonlyMap<string, OpenPart>;

  private constructor(parts: ReadonlyMap<string, OpenPart>) {
    this.parts = parts;
  }

  /**
   * What is damaged is taken away, and made again when somebody asks next.
   * @param earlier ones whose parts need not be read again
   * @throws PlainError where they are damaged
   */
  static async open(file: string, earlier: TextTables | null = null): Promise<TextTables> {
    const parts = new Map<string, OpenPart>();
    const named = readParts(file);
    for (const { name } of named ?? []) {
      const part = earlier?.parts.get(name) ?? (await openPart(join(dirname(file), name)));
      if (part) parts.set(name, part);
      else rmSync(join(dirname(file), name), { force: true });
    }
    if (parts.size === named?.length) return new TextTables(parts);
    rmSync(file, { force: true });
    throw new PlainError('What finds texts by their words was damaged, and is made anew: search once more.');
  }

  /** Hashes of the texts that hold it. */
  holding(term: Term): Set<string> {
    const found = new Set<string>();
    for (const { index, hashes } of this.parts.values())
      index.find([term], [], (number) => {
        found.add(hashAt(hashes, number));
        return true;
      });
    return found;
  }
}

async function openPart(file: string): Promise<OpenPart | null> {
  const arrays = await readArrays(file, null);
  if (!arrays) return null;
  const part = (name: string): never => (arrays.get(name) ?? new Uint8Array(0)) as never;
  const first: GramTables = { grams: part('grams'), listAt: part('listAt'), lists: part('lists') };
  const [begin, end] = [part('begin'), part('end')];
  const index = new PathIndex({
    ...{ text: part('text'), begin, end, foldedBegin: begin, foldedEnd: end },
    ...{ first, later: new Uint32Array(0), laterGrams: noGrams },
  });
  return { index, hashes: part('hashes') };
}
