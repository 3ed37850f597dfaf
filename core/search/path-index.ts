/** Paths and what finds them by their parts, in arrays that can be written to a file as they are. */
export interface PathTables {
  /** The paths in UTF-8, in their order, and where each begins; the last is the end. */
  text: Uint8Array;
  textAt: Uint32Array;
  /** The same in lower case. */
  folded: Uint8Array;
  foldedAt: Uint32Array;
  /** Which pairs and triples of bytes occur, in order: pairs are below 2^16, triples 2^16 and more. */
  grams: Uint32Array;
  /** Where each one's list of paths begins. */
  listAt: Uint32Array;
  /** The lists: steps from a path's number to the next, seven bits to a byte, the lowest first. */
  lists: Uint8Array;
}

const encoder = new TextEncoder();
const pairs = 1 << 16;
const all = pairs + (1 << 24);

/**
 * Makes the tables.
 * @param paths in the order in which they are to be found
 */
export function makePathTables(paths: readonly string[]): PathTables {
  const [text, textAt] = joined(paths, (path) => encoder.encode(path));
  const [folded, foldedAt] = joined(paths, (path) => encoder.encode(path.toLowerCase()));
  // The first round measures, the second writes: what is measured needs no room for numbers of 32 bits.
  const lengths = new Uint32Array(all);
  eachGram(folded, foldedAt, (gram, step) => (lengths[gram] = (lengths[gram] ?? 0) + byteCount(step)));
  const grams = new Uint32Array(lengths.reduce((count, length) => count + (length > 0 ? 1 : 0), 0));
  const listAt = new Uint32Array(grams.length + 1);
  let place = 0;
  for (let gram = 0, at = 0; gram < all; gram++) {
    const length = lengths[gram] ?? 0;
    if (length === 0) continue;
    grams[at] = gram;
    listAt[at++] = place;
    lengths[gram] = place;
    place += length;
    listAt[at] = place;
  }
  const lists = new Uint8Array(place);
  eachGram(folded, foldedAt, (gram, step) => {
    let to = lengths[gram] ?? 0;
    let rest = step;
    for (; rest > 127; rest >>>= 7) lists[to++] = (rest & 127) | 128;
    lists[to++] = rest;
    lengths[gram] = to;
  });
  return { text, textAt, folded, foldedAt, grams, listAt, lists };
}

function joined(paths: readonly string[], bytesOf: (path: string) => Uint8Array): [Uint8Array, Uint32Array] {
  const at = new Uint32Array(paths.length + 1);
  let bytes = new Uint8Array(Math.max(1024, paths.length * 64));
  let length = 0;
  paths.forEach((path, number) => {
    const part = bytesOf(path);
    if (length + part.length > bytes.length) {
      const larger = new Uint8Array(bytes.length * 2 + part.length);
      larger.set(bytes);
      bytes = larger;
    }
    bytes.set(part, length);
    length += part.length;
    at[number + 1] = length;
  });
  return [bytes.slice(0, length), at];
}

/** Every pair and triple of each path once, with the step from the path before that has it. */
function eachGram(folded: Uint8Array, foldedAt: Uint32Array, visit: (gram: number, step: number) => void): void {
  // One more than the number of the last path that had it.
  const last = new Uint32Array(all);
  for (let number = 0; number + 1 < foldedAt.length; number++) {
    const end = foldedAt[number + 1] ?? 0;
    for (let at = foldedAt[number] ?? 0; at + 1 < end; at++) {
      const pair = ((folded[at] ?? 0) << 8) | (folded[at + 1] ?? 0);
      const before = last[pair] ?? 0;
      if (before !== number + 1) {
        visit(pair, number + 1 - before);
        last[pair] = number + 1;
      }
      if (at + 2 >= end) continue;
      const triple = pairs + ((pair << 8) | (folded[at + 2] ?? 0));
      const earlier = last[triple] ?? 0;
      if (earlier !== number + 1) {
        visit(triple, number + 1 - earlier);
        last[triple] = number + 1;
      }
    }
  }
} // prettier-ignore

function byteCount(step: number): number {
  return step < 1 << 7 ? 1 : step < 1 << 14 ? 2 : step < 1 << 21 ? 3 : 4;
}

/** Where a list of paths lies. */
interface List {
  from: number;
  to: number;
}

/** The lists of which one has to have a path, and how long they are together. */
interface Lists {
  parts: List[];
  length: number;
}

/** One way in which a path can answer to a term: it holds all of these texts, and fits where that is asked. */
export interface Alternative {
  /** Lower case, in UTF-8. */
  texts: readonly Uint8Array[];
  fits?: (path: string) => boolean;
}

/** What a path has to answer to, in one way or another. */
export type Term = readonly Alternative[];

/** @param text in lower case */
export function termOf(text: string): Term {
  return [{ texts: [encoder.encode(text)] }];
}

/** Goes through numbers of paths in order. */
interface Reader {
  readonly value: number;
  next(): boolean;
  /** Goes on to a number. @returns whether it is there */
  reach(wanted: number): boolean;
}

const longestShare = 12;

/** Finds paths by their parts. */
export class PathIndex {
  readonly size: number;
  private readonly tables: PathTables;
  private readonly decoder = new TextDecoder();

  constructor(tables: PathTables) {
    this.tables = tables;
    this.size = tables.textAt.length - 1;
  }

  path(number: number): string {
    const { text, textAt } = this.tables;
    return this.decoder.decode(text.subarray(textAt[number], textAt[number + 1]));
  }

  /**
   * Calls for each path that answers to all terms and to none of the excluded ones, in order, until the answer is no.
   */
  find(terms: readonly Term[], excluded: readonly Term[], visit: (number: number) => boolean): void {
    const lists = this.rarestLists(terms);
    if (lists === null) return;
    if (lists.length === 0) {
      for (let number = 0; number < this.size; number++)
        if (this.fits(number, terms, excluded) && !visit(number)) return;
      return;
    }
    const [first, ...others] = lists.map(({ parts }) => this.readerOf(parts));
    next: while (first?.next()) {
      const { value } = first;
      for (const other of others) if (!other.reach(value)) continue next;
      if (this.fits(value, terms, excluded) && !visit(value)) return;
    }
  }

  /** Number of a path that is written exactly so; -1 where there is none. The paths are sorted by their UTF-16 units. */
  numberOf(path: string): number {
    let low = 0;
    let high = this.size;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.path(middle) < path) low = middle + 1;
      else high = middle;
    }
    return low < this.size && this.path(low) === path ? low : -1;
  }

  /** @param ending in lower case, as bytes of UTF-8 */
  endsWith(number: number, ending: Uint8Array): boolean {
    const { folded, foldedAt } = this.tables;
    const from = (foldedAt[number + 1] ?? 0) - ending.length;
    if (from < (foldedAt[number] ?? 0)) return false;
    for (let at = 0; at < ending.length; at++) if (folded[from + at] !== ending[at]) return false;
    return true;
  }

  private fits(number: number, terms: readonly Term[], excluded: readonly Term[]): boolean {
    for (const term of terms) if (!this.answers(number, term)) return false;
    for (const term of excluded) if (this.answers(number, term)) return false;
    return true;
  }

  private answers(number: number, term: Term): boolean {
    next: for (const { texts, fits } of term) {
      for (const text of texts) if (!this.holds(number, text)) continue next;
      if (!fits || fits(this.path(number))) return true;
    }
    return false;
  }

  private readerOf(parts: readonly List[]): Reader {
    const readers = parts.map(({ from, to }) => new ListReader(this.tables.lists, from, to));
    const [only] = readers;
    return readers.length === 1 && only ? only : new AnyReader(readers);
  }

  /**
   * The rarest lists of each term: further ones of the same text say mostly the same.
   * @returns null where a term occurs nowhere; the shortest come first
   */
  private rarestLists(terms: readonly Term[]): Lists[] | null {
    const found: Lists[] = [];
    for (const term of terms) {
      const parts: List[] = [];
      let isWithout = false;
      for (const { texts } of term) {
        const list = this.rarestList(texts);
        if (list === 'none') isWithout = true;
        else if (list !== null) parts.push(list);
      }
      // One letter alone has no list, and may stand anywhere.
      if (isWithout) continue;
      if (parts.length === 0) return null;
      found.push({ parts, length: parts.reduce((sum, { from, to }) => sum + to - from, 0) });
    }
    found.sort((a, b) => a.length - b.length);
    const [shortest] = found;
    // Beside a short list a long one costs more than looking at the few paths of the short one.
    const most = shortest ? shortest.length * longestShare : 0;
    return found.filter(({ length }) => length <= most);
  }

  /** @returns null where a part of a text occurs nowhere, `none` where all are too short to have a list */
  private rarestList(texts: readonly Uint8Array[]): List | null | 'none' {
    let rarest: List | null = null;
    for (const word of texts)
      // Triples tell more than pairs; a word of two letters has none, and one of a single letter has neither.
      for (let at = 0; at + Math.min(3, Math.max(2, word.length)) <= word.length; at++) {
        const list = this.listOf(word, at);
        if (list === null) return null;
        if (rarest === null || list.to - list.from < rarest.to - rarest.from) rarest = list;
      }
    return rarest ?? 'none';
  }

  private listOf(word: Uint8Array, at: number): List | null {
    const { listAt } = this.tables;
    const pair = ((word[at] ?? 0) << 8) | (word[at + 1] ?? 0);
    const place = this.place(word.length > 2 ? pairs + ((pair << 8) | (word[at + 2] ?? 0)) : pair);
    return place < 0 ? null : { from: listAt[place] ?? 0, to: listAt[place + 1] ?? 0 };
  }

  private place(gram: number): number {
    const { grams } = this.tables;
    let low = 0;
    let high = grams.length - 1;
    while (low <= high) {
      const middle = (low + high) >> 1;
      const there = grams[middle] ?? 0;
      if (there === gram) return middle;
      if (there < gram) low = middle + 1;
      else high = middle - 1;
    }
    return -1;
  }

  private holds(number: number, word: Uint8Array): boolean {
    const { folded, foldedAt } = this.tables;
    const end = (foldedAt[number + 1] ?? 0) - word.length;
    const first = word[0] ?? 0;
    for (let at = foldedAt[number] ?? 0; at <= end; at++) {
      if (folded[at] !== first) continue;
      let same = 1;
      while (same < word.length && folded[at + same] === word[same]) same++;
      if (same === word.length) return true;
    }
    return false;
  }
}

class ListReader implements Reader {
  /** Number of a path. */
  value = -1;
  private at: number;
  private readonly end: number;
  private readonly lists: Uint8Array;

  constructor(lists: Uint8Array, from: number, to: number) {
    this.lists = lists;
    this.at = from;
    this.end = to;
  }

  next(): boolean {
    return this.goTo(this.value + 1);
  }

  /** Goes on to a number. @returns whether the list has it */
  reach(wanted: number): boolean {
    return this.goTo(wanted) && this.value === wanted;
  }

  /** Goes on to the first number from `least` on. @returns whether there is one */
  goTo(least: number): boolean {
    const { lists, end } = this;
    let { value, at } = this;
    while (value < least && at < end) {
      let byte = lists[at++] ?? 0;
      let step = byte & 127;
      for (let shift = 7; byte > 127; shift += 7) {
        byte = lists[at++] ?? 0;
        step |= (byte & 127) << shift;
      }
      value += step;
    }
    this.value = value;
    this.at = at;
    return value >= least;
  }
}

/** What is in any of some lists. */
class AnyReader implements Reader {
  value = -1;
  private readonly readers: readonly ListReader[];

  constructor(readers: readonly ListReader[]) {
    this.readers = readers;
  }

  next(): boolean {
    return this.goTo(this.value + 1);
  }

  reach(wanted: number): boolean {
    return this.goTo(wanted) && this.value === wanted;
  }

  private goTo(least: number): boolean {
    let lowest = Infinity;
    for (const reader of this.readers) if (reader.goTo(least) && reader.value < lowest) lowest = reader.value;
    if (lowest === Infinity) return false;
    this.value = lowest;
    return true;
  }
}
