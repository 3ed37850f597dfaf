import type { GramTables } from './path-tables.ts';

/** One way in which a path can answer to a term: it holds all of these texts, and fits where that is asked. */
export interface Alternative {
  /** Lower case, in UTF-8. */
  texts: readonly Uint8Array[];
  fits?: (path: string) => boolean;
}

/** What a path has to answer to, in one way or another. */
export type Term = readonly Alternative[];

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

/** Goes through numbers in order. */
interface Reader {
  readonly value: number;
  next(): boolean;
  /** Goes on to a number. @returns whether it is there */
  reach(wanted: number): boolean;
}

const longestShare = 12;

/** The lists of triples, by which texts are found that may hold a word. */
export class GramLists {
  private readonly tables: GramTables;

  constructor(tables: GramTables) {
    this.tables = tables;
  }

  /**
   * Calls for the number of each text that may answer to all terms, in order, until the answer is no.
   * @returns false where the terms are too short to have lists, so that any text may answer to them
   */
  candidates(terms: readonly Term[], visit: (number: number) => boolean): boolean {
    const lists = this.rarestLists(terms);
    if (lists === null) return true;
    const [first, ...others] = lists.map(({ parts }) => this.readerOf(parts));
    if (!first) return false;
    next: while (first.next()) {
      const { value } = first;
      for (const other of others) if (!other.reach(value)) continue next;
      if (!visit(value)) break;
    }
    return true;
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
        const lists = this.rarestListsOf(texts);
        if (lists === 'none') isWithout = true;
        else if (lists !== null) parts.push(...lists);
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

  /**
   * The list of a text's rarest triple, or those of all triples that a text of two letters begins.
   * @returns null where a part of a text occurs nowhere, `none` where all are too short to have a list
   */
  private rarestListsOf(texts: readonly Uint8Array[]): List[] | null | 'none' {
    let rarest: List[] | null = null;
    let least = Infinity;
    for (const word of texts)
      // A text of a single letter has none.
      for (let at = 0; at + Math.min(3, Math.max(2, word.length)) <= word.length; at++) {
        const lists = this.listsOf(word, at);
        if (lists.length === 0) return null;
        const length = (lists.at(-1)?.to ?? 0) - (lists[0]?.from ?? 0);
        if (length < least) [rarest, least] = [lists, length];
      }
    return rarest ?? 'none';
  }

  private listsOf(word: Uint8Array, at: number): List[] {
    const { grams, listAt } = this.tables;
    const gram = ((word[at] ?? 0) << 16) | ((word[at + 1] ?? 0) << 8) | (word[at + 2] ?? 0);
    const last = word.length > 2 ? gram : gram | 255;
    const lists: List[] = [];
    for (let place = this.place(gram); (grams[place] ?? Infinity) <= last; place++)
      lists.push({ from: listAt[place] ?? 0, to: listAt[place + 1] ?? 0 });
    return lists;
  }

  /** Place of the first gram from this one on. */
  private place(gram: number): number {
    const { grams } = this.tables;
    let low = 0;
    let high = grams.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((grams[middle] ?? 0) < gram) low = middle + 1;
      else high = middle;
    }
    return low;
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
