import { pairs, type PathTables } from './path-tables.ts';

const encoder = new TextEncoder();

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
