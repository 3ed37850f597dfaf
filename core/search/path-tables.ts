import { PathColumn, type FoldedTexts } from './path-column.ts';

/** Paths in order, and what finds them by their parts. */
export interface PathTables extends FoldedTexts {
  /** Finds the paths that were there first, by their numbers among themselves. */
  first: GramTables;
  /** Numbers of those that came in among them later, in order. */
  later: Uint32Array;
  /** Finds these, by their places among themselves. */
  laterGrams: GramTables;
}

/** What finds texts by their parts, in arrays that can be written to a file as they are. */
export interface GramTables {
  /**
   * Which triples of bytes occur, in order, the first byte highest. A text's last two bytes make one with a 0 after them, so
   * that each pair of bytes begins one.
   */
  grams: Uint32Array;
  /** Where each one's list of paths begins. */
  listAt: Uint32Array;
  /** The lists: steps from a path's number to the next, seven bits to a byte, the lowest first. */
  lists: Uint8Array;
}

/**
 * Makes the tables.
 * @param paths in the order in which they are to be found
 */
export function makePathTables(paths: readonly string[]): PathTables {
  const column = new PathColumn(paths.length * 64);
  for (const path of paths) column.add(path);
  const texts = column.finish();
  return { ...texts, ...firstTables(texts) };
}

/** What finds texts of which none came later. */
export function firstTables(texts: FoldedTexts): Pick<PathTables, 'first' | 'later' | 'laterGrams'> {
  return { first: makeGramTables(texts), later: new Uint32Array(0), laterGrams: noGrams };
}

/** What finds nothing. */
export const noGrams: GramTables = {
  grams: new Uint32Array(0),
  listAt: new Uint32Array(1),
  lists: new Uint8Array(0),
};

type Folded = Pick<FoldedTexts, 'text' | 'foldedBegin' | 'foldedEnd'>;

/** Makes what finds texts by their parts. */
export function makeGramTables(texts: Folded): GramTables {
  const alphabet = new Alphabet(texts.text);
  // The first round measures, the second writes: what is measured needs no room for numbers of 32 bits.
  const lengths = new Uint32Array(alphabet.gramCount);
  eachGram(texts, alphabet, (gram, step) => (lengths[gram] = (lengths[gram] ?? 0) + byteCount(step)));
  const grams = new Uint32Array(lengths.reduce((count, length) => count + (length > 0 ? 1 : 0), 0));
  const listAt = new Uint32Array(grams.length + 1);
  let place = 0;
  for (let gram = 0, at = 0; gram < lengths.length; gram++) {
    const length = lengths[gram] ?? 0;
    if (length === 0) continue;
    grams[at] = alphabet.wideGram(gram);
    listAt[at++] = place;
    lengths[gram] = place;
    place += length;
    listAt[at] = place;
  }
  const lists = new Uint8Array(place);
  eachGram(texts, alphabet, (gram, step) => {
    lengths[gram] = writeStep(lists, lengths[gram] ?? 0, step);
  });
  return { grams, listAt, lists };
}

/** @returns the place after it */
function writeStep(lists: Uint8Array, at: number, step: number): number {
  let rest = step;
  for (; rest > 127; rest >>>= 7) lists[at++] = (rest & 127) | 128;
  lists[at++] = rest;
  return at;
}

/**
 * The bytes that occur, numbered in their order: some 40 of names in Latin letters, whose triples take a hundredth of the room
 * of all. Numbers of grams keep the order of the grams.
 */
class Alphabet {
  readonly size: number;
  readonly numberOf = new Int32Array(256);
  private readonly bytes: number[] = [];

  constructor(text: Uint8Array) {
    const occurs = occurring(text);
    for (let byte = 65; byte <= 90; byte++) {
      if (occurs[byte] === 1) occurs[byte + 32] = 1;
      occurs[byte] = 0;
    }
    // It stands after the end of each text.
    occurs[0] = 1;
    for (let byte = 0; byte < 256; byte++) {
      this.numberOf[byte] = this.bytes.length;
      if (occurs[byte] === 1) this.bytes.push(byte);
    }
    // Capital letters count as the small ones.
    for (let byte = 65; byte <= 90; byte++) this.numberOf[byte] = this.numberOf[byte + 32] ?? 0;
    this.size = this.bytes.length;
  }

  get gramCount(): number {
    return this.size ** 3;
  }

  /** A gram by its bytes. */
  wideGram(gram: number): number {
    const { size, bytes } = this;
    const first = bytes[Math.floor(gram / size ** 2)] ?? 0;
    return (first << 16) | ((bytes[Math.floor(gram / size) % size] ?? 0) << 8) | (bytes[gram % size] ?? 0);
  }
}

function occurring(text: Uint8Array): Uint8Array {
  const occurs = new Uint8Array(256);
  const { length } = text;
  for (let at = 0; at < length; at++) occurs[text[at] ?? 0] = 1;
  return occurs;
}

/** Every triple of each text once, with the step from the text before that has it. */
function eachGram(
  { text, foldedBegin, foldedEnd }: Folded,
  alphabet: Alphabet,
  visit: (gram: number, step: number) => void,
): void {
  const { size, numberOf } = alphabet;
  const square = size * size;
  // One more than the number of the last text that had it.
  const last = new Uint32Array(alphabet.gramCount);
  for (let number = 0; number < foldedBegin.length; number++) {
    const end = foldedEnd[number] ?? 0;
    let at = foldedBegin[number] ?? 0;
    if (end - at < 2) continue;
    let pair = (numberOf[text[at] ?? 0] ?? 0) * size + (numberOf[text[at + 1] ?? 0] ?? 0);
    for (at += 2; at <= end; at++) {
      const next = at < end ? (numberOf[text[at] ?? 0] ?? 0) : 0;
      const gram = pair * size + next;
      const before = last[gram] ?? 0;
      if (before !== number + 1) {
        visit(gram, number + 1 - before);
        last[gram] = number + 1;
      }
      pair = (pair * size + next) % square;
    }
  }
}

function byteCount(step: number): number {
  return step < 1 << 7 ? 1 : step < 1 << 14 ? 2 : step < 1 << 21 ? 3 : 4;
}
