/** Paths and what finds them by their parts, in arrays that can be written to a file as they are. */
export interface PathTables extends GramTables {
  /** The paths in UTF-8, in their order, and where each begins; the last is the end. */
  text: Uint8Array;
  textAt: Uint32Array;
  /** The same in lower case. */
  folded: Uint8Array;
  foldedAt: Uint32Array;
}

export interface GramTables {
  /** Which pairs and triples of bytes occur, in order: pairs are below 2^16, triples 2^16 and more. */
  grams: Uint32Array;
  /** Where each one's list of paths begins. */
  listAt: Uint32Array;
  /** The lists: steps from a path's number to the next, seven bits to a byte, the lowest first. */
  lists: Uint8Array;
}

const encoder = new TextEncoder();
/** Numbers of grams: pairs are below, triples from here on. */
export const pairs = 1 << 16;

/**
 * Makes the tables.
 * @param paths in the order in which they are to be found
 * @param known tables made before: where they are of the same paths, what finds them is not made again
 */
export function makePathTables(paths: readonly string[], known: PathTables | null = null): PathTables {
  const { bytes: text, at: textAt } = joined(paths);
  if (known && isSame(text, known.text) && isSame(textAt, known.textAt)) return known;
  const { bytes: folded, at: foldedAt } = joined(paths.map((path) => path.toLowerCase()));
  return { text, textAt, folded, foldedAt, ...makeGramTables(folded, foldedAt) };
}

function isSame(a: Uint8Array | Uint32Array, b: Uint8Array | Uint32Array): boolean {
  return a.length === b.length && a.every((value, at) => value === b[at]);
}

/**
 * Makes what finds texts by their parts.
 * @param folded the texts in lower case, in UTF-8
 * @param foldedAt where each begins; the last is the end
 */
export function makeGramTables(folded: Uint8Array, foldedAt: Uint32Array): GramTables {
  const alphabet = new Alphabet(folded);
  // The first round measures, the second writes: what is measured needs no room for numbers of 32 bits.
  const lengths = new Uint32Array(alphabet.gramCount);
  eachGram(
    folded,
    foldedAt,
    alphabet,
    (gram, step) => (lengths[gram] = (lengths[gram] ?? 0) + byteCount(step)),
  );
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
  eachGram(folded, foldedAt, alphabet, (gram, step) => {
    let to = lengths[gram] ?? 0;
    let rest = step;
    for (; rest > 127; rest >>>= 7) lists[to++] = (rest & 127) | 128;
    lists[to++] = rest;
    lengths[gram] = to;
  });
  return { grams, listAt, lists };
}

/**
 * The bytes that occur, numbered in their order: some 70 of names in Latin letters, whose triples take a fiftieth of the
 * room of all. Numbers of grams keep the order of the grams.
 */
class Alphabet {
  readonly size: number;
  readonly numberOf = new Int32Array(256);
  private readonly bytes: number[] = [];

  constructor(text: Uint8Array) {
    const occurs = new Uint8Array(256);
    for (let at = 0; at < text.length; at++) occurs[text[at] ?? 0] = 1;
    for (let byte = 0; byte < 256; byte++) {
      this.numberOf[byte] = this.bytes.length;
      if (occurs[byte] === 1) this.bytes.push(byte);
    }
    this.size = this.bytes.length;
  }

  /** Pairs come first, then triples. */
  get gramCount(): number {
    return this.size ** 2 + this.size ** 3;
  }

  /** A gram by its bytes: pairs are below 2^16, triples 2^16 and more. */
  wideGram(gram: number): number {
    const { size, bytes } = this;
    if (gram < size ** 2) return ((bytes[Math.floor(gram / size)] ?? 0) << 8) | (bytes[gram % size] ?? 0);
    const triple = gram - size ** 2;
    const first = bytes[Math.floor(triple / size ** 2)] ?? 0;
    return (
      pairs +
      ((first << 16) | ((bytes[Math.floor(triple / size) % size] ?? 0) << 8) | (bytes[triple % size] ?? 0))
    );
  }
}

function joined(texts: readonly string[]): { bytes: Uint8Array; at: Uint32Array } {
  const column = new TextColumn(texts.length * 64);
  for (const text of texts) column.add(text);
  return column.finish();
}

/** Texts in UTF-8, one after the other. */
export class TextColumn {
  private bytes: Uint8Array;
  private readonly ends: number[] = [0];
  private length = 0;

  /** @param expectedBytes that they will take, about */
  constructor(expectedBytes: number) {
    this.bytes = new Uint8Array(Math.max(1024, expectedBytes));
  }

  add(text: string): void {
    const part = encoder.encode(text);
    if (this.length + part.length > this.bytes.length) {
      const larger = new Uint8Array(Math.ceil(this.bytes.length * 1.5) + part.length);
      larger.set(this.bytes);
      this.bytes = larger;
    }
    this.bytes.set(part, this.length);
    this.length += part.length;
    this.ends.push(this.length);
  }

  /** The bytes, and where each text begins; the last is the end. */
  finish(): { bytes: Uint8Array; at: Uint32Array } {
    return { bytes: this.bytes.subarray(0, this.length), at: Uint32Array.from(this.ends) };
  }
}

/** Every pair and triple of each path once, with the step from the path before that has it. */
function eachGram(
  folded: Uint8Array,
  foldedAt: Uint32Array,
  alphabet: Alphabet,
  visit: (gram: number, step: number) => void,
): void {
  const { size, numberOf } = alphabet;
  const triples = size * size;
  // One more than the number of the last path that had it.
  const last = new Uint32Array(alphabet.gramCount);
  for (let number = 0; number + 1 < foldedAt.length; number++) {
    const end = foldedAt[number + 1] ?? 0;
    for (let at = foldedAt[number] ?? 0; at + 1 < end; at++) {
      const pair = (numberOf[folded[at] ?? 0] ?? 0) * size + (numberOf[folded[at + 1] ?? 0] ?? 0);
      const before = last[pair] ?? 0;
      if (before !== number + 1) {
        visit(pair, number + 1 - before);
        last[pair] = number + 1;
      }
      if (at + 2 >= end) continue;
      const triple = triples + pair * size + (numberOf[folded[at + 2] ?? 0] ?? 0);
      const earlier = last[triple] ?? 0;
      if (earlier !== number + 1) {
        visit(triple, number + 1 - earlier);
        last[triple] = number + 1;
      }
    }
  }
}

function byteCount(step: number): number {
  return step < 1 << 7 ? 1 : step < 1 << 14 ? 2 : step < 1 << 21 ? 3 : 4;
}
