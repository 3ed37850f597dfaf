const encoder = new TextEncoder();

/** Bytes of ASCII's capital letters as those of the small ones, all others as they are. */
export const lowerByte = Uint8Array.from({ length: 256 }, (_, byte) =>
  byte >= 65 && byte <= 90 ? byte + 32 : byte,
);

/**
 * Texts are in the order of their UTF-16 units, as programs compare them. In UTF-8 that is the order of bytes, but for the first
 * bytes of what lies beyond U+FFFF: surrogates come before U+E000.
 */
const rank = Uint8Array.from({ length: 256 }, (_, byte) =>
  byte >= 0xf0 && byte <= 0xf4 ? byte - 2 : byte === 0xee || byte === 0xef ? byte + 5 : byte,
);

/** Texts in UTF-8 that lie somewhere among others. */
export interface PlacedTexts {
  text: Uint8Array;
  begin: Uint32Array;
  end: Uint32Array;
}

/** Texts, and where each lies in lower case. */
export interface FoldedTexts extends PlacedTexts {
  /** Where ASCII's letters are all that changes, the text itself, of which these have to be taken in lower case. */
  foldedBegin: Uint32Array;
  foldedEnd: Uint32Array;
}

/** Texts in UTF-8, one after the other, in the order in which they come. */
export class PathColumn {
  private text: Uint8Array;
  private length = 0;
  private places = new Uint32Array(4 * 1024);
  private hasFolded = false;
  count = 0;

  /** @param expectedBytes that they will take, about */
  constructor(expectedBytes: number) {
    this.text = new Uint8Array(Math.max(1024, expectedBytes));
  }

  add(path: string): void {
    if (4 * this.count === this.places.length) {
      const larger = new Uint32Array(this.places.length * 2);
      larger.set(this.places);
      this.places = larger;
    }
    const at = 4 * this.count++;
    const [begin, end] = this.write(path);
    this.places.set([begin, end, begin, end], at);
    // What has ASCII's letters alone is put in lower case byte by byte.
    if (end - begin === path.length) return;
    const folded = path.toLowerCase();
    if (folded === path.replace(/[A-Z]/g, (letter) => letter.toLowerCase())) return;
    this.hasFolded = true;
    this.places.set(this.write(folded), at + 2);
  }

  /** The texts in their order, or some of them in another one. @param order numbers of those that are wanted */
  finish(order: Uint32Array | null = null): FoldedTexts {
    const length = order?.length ?? this.count;
    const pick = (part: number): Uint32Array =>
      Uint32Array.from({ length }, (_, at) => this.places[4 * (order?.[at] ?? at) + part] ?? 0);
    const [begin, end] = [pick(0), pick(1)];
    return {
      text: this.text.subarray(0, this.length),
      begin,
      end,
      ...(this.hasFolded
        ? { foldedBegin: pick(2), foldedEnd: pick(3) }
        : { foldedBegin: begin, foldedEnd: end }),
    };
  }

  private write(text: string): [begin: number, end: number] {
    // One unit takes three bytes at most.
    const most = this.length + text.length * 3;
    if (most > this.text.length) {
      const larger = new Uint8Array(Math.ceil(this.text.length * 1.5) + text.length * 3);
      larger.set(this.text.subarray(0, this.length));
      this.text = larger;
    }
    const begin = this.length;
    this.length += encoder.encodeInto(text, this.text.subarray(begin, most)).written;
    return [begin, this.length];
  }
}

/** @returns below 0 where the first comes before the second, 0 where they are the same */
export function compareTexts(a: PlacedTexts, aNumber: number, b: PlacedTexts, bNumber: number): number {
  const [aBegin = 0, aEnd = 0, bBegin = 0, bEnd = 0] = [
    a.begin[aNumber],
    a.end[aNumber],
    b.begin[bNumber],
    b.end[bNumber],
  ];
  const length = Math.min(aEnd - aBegin, bEnd - bBegin);
  for (let at = 0; at < length; at++) {
    const left = a.text[aBegin + at] ?? 0;
    const right = b.text[bBegin + at] ?? 0;
    if (left !== right) return (rank[left] ?? 0) - (rank[right] ?? 0);
  }
  return aEnd - aBegin - (bEnd - bBegin);
}

/** Where a text stands among others, or would stand. @param within the others, in order */
export function placeOf(within: PlacedTexts, texts: PlacedTexts, number: number): number {
  let low = 0;
  let high = within.begin.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (compareTexts(within, middle, texts, number) < 0) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** So few are put in order by comparing them. */
const fewTexts = 24;

/** The numbers of texts in the order of the texts: by their first byte, then those that share it by their second, and so on. */
export function sortedTexts(texts: PlacedTexts): Uint32Array {
  const { text, begin, end } = texts;
  const order = Uint32Array.from(begin, (_, number) => number);
  const spare = new Uint32Array(order.length);
  const starts = new Uint32Array(258);
  const left: [from: number, to: number, depth: number][] = [[0, order.length, 0]];
  for (let part = left.pop(); part; part = left.pop()) {
    const [from, to, depth] = part;
    if (to - from <= fewTexts) {
      order.subarray(from, to).sort((a, b) => compareTexts(texts, a, texts, b));
      continue;
    }
    // 0 for those that end here, which come first.
    const key = (number: number): number => {
      const at = (begin[number] ?? 0) + depth;
      return at < (end[number] ?? 0) ? 1 + (rank[text[at] ?? 0] ?? 0) : 0;
    };
    starts.fill(0);
    for (let at = from; at < to; at++) {
      const next = key(order[at] ?? 0) + 1;
      starts[next] = (starts[next] ?? 0) + 1;
    }
    for (let at = 1; at < 258; at++) {
      const count = starts[at] ?? 0;
      const start = starts[at - 1] ?? 0;
      if (at > 1 && count > 1) left.push([from + start, from + start + count, depth + 1]);
      starts[at] = start + count;
    }
    for (let at = from; at < to; at++) {
      const number = order[at] ?? 0;
      const place = key(number);
      spare[starts[place] ?? 0] = number;
      starts[place] = (starts[place] ?? 0) + 1;
    }
    order.set(spare.subarray(0, to - from), from);
  }
  return order;
}
