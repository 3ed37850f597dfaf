import { GramLists, type Term } from './gram-lists.ts';
import { compareTexts, lowerByte, placeOf } from './path-column.ts';
import type { PathTables } from './path-tables.ts';

const encoder = new TextEncoder();
const nothing = new Uint32Array(1);

/** @param text in lower case */
export function termOf(text: string): Term {
  return [{ texts: [encoder.encode(text)] }];
}

/** Finds paths by their parts. */
export class PathIndex {
  readonly size: number;
  private readonly tables: PathTables;
  private readonly decoder = new TextDecoder();
  private readonly firstLists: GramLists;
  private readonly laterLists: GramLists;
  /** Before which of the first ones each of those came that came later; the last one ends them. */
  private readonly cameAt: Uint32Array;
  /** How many of them came before each 256 of the first ones. */
  private readonly beforeBlock: Uint32Array;

  constructor(tables: PathTables) {
    this.tables = tables;
    this.size = tables.begin.length;
    const { first, later, laterGrams } = tables;
    this.firstLists = new GramLists(first);
    this.laterLists = new GramLists(laterGrams);
    this.cameAt = new Uint32Array(later.length + 1).fill(0xffff_ffff);
    later.forEach((number, at) => (this.cameAt[at] = number - at));
    this.beforeBlock = new Uint32Array(((this.size - later.length) >>> 8) + 1);
    for (let block = 0, at = 0; block < this.beforeBlock.length; block++) {
      while ((this.cameAt[at] ?? 0) < block * 256) at++;
      this.beforeBlock[block] = at;
    }
  }

  path(number: number): string {
    const { text, begin, end } = this.tables;
    return this.decoder.decode(text.subarray(begin[number], end[number]));
  }

  /**
   * Calls for each path that answers to all terms and to none of the excluded ones, in order, until the answer is no.
   */
  find(terms: readonly Term[], excluded: readonly Term[], visit: (number: number) => boolean): void {
    const fits = (number: number): boolean => this.fits(number, terms, excluded);
    const { later } = this.tables;
    const found: number[] = [];
    const hasLists = this.laterLists.candidates(terms, (place) => {
      const number = later[place] ?? 0;
      if (fits(number)) found.push(number);
      return true;
    });
    if (!hasLists) {
      for (let number = 0; number < this.size; number++) if (fits(number) && !visit(number)) return;
      return;
    }
    let next = 0;
    /** What came later stands among the others. */
    const visitUntil = (end: number): boolean => {
      while (next < found.length && (found[next] ?? 0) < end) if (!visit(found[next++] ?? 0)) return false;
      return true;
    };
    let goesOn = true;
    this.firstLists.candidates(terms, (place) => {
      const number = this.numberOfFirst(place);
      if (fits(number)) goesOn = visitUntil(number) && visit(number);
      return goesOn;
    });
    if (goesOn) visitUntil(this.size);
  }

  /** Number of a path by its place among those that were there first. */
  private numberOfFirst(place: number): number {
    let before = this.beforeBlock[place >>> 8] ?? 0;
    while ((this.cameAt[before] ?? 0) <= place) before++;
    return place + before;
  }

  /** Number of a path that is written exactly so; -1 where there is none. The paths are sorted by their UTF-16 units. */
  numberOf(path: string): number {
    const text = encoder.encode(path);
    const alone = { text, begin: nothing, end: Uint32Array.of(text.length) };
    const place = placeOf(this.tables, alone, 0);
    return place < this.size && compareTexts(this.tables, place, alone, 0) === 0 ? place : -1;
  }

  /** @param ending in lower case, as bytes of UTF-8 */
  endsWith(number: number, ending: Uint8Array): boolean {
    const { text, foldedBegin, foldedEnd } = this.tables;
    const from = (foldedEnd[number] ?? 0) - ending.length;
    if (from < (foldedBegin[number] ?? 0)) return false;
    for (let at = 0; at < ending.length; at++)
      if (lowerByte[text[from + at] ?? 0] !== ending[at]) return false;
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

  private holds(number: number, word: Uint8Array): boolean {
    const { text, foldedBegin, foldedEnd } = this.tables;
    const end = (foldedEnd[number] ?? 0) - word.length;
    const first = word[0] ?? 0;
    for (let at = foldedBegin[number] ?? 0; at <= end; at++) {
      if (lowerByte[text[at] ?? 0] !== first) continue;
      let same = 1;
      while (same < word.length && lowerByte[text[at + same] ?? 0] === word[same]) same++;
      if (same === word.length) return true;
    }
    return false;
  }
}
