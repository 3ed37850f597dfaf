/**
 * 64 bits of which each tells whether more words have it set or not in a hash of their own (simhash, Charikar 2002), so that
 * lists of nearly the same words differ in few.
 */
export class Simhash {
  private readonly counts = new Int32Array(64);
  /** The counts of the last words, four to a number: a byte holds no more than 255. */
  private readonly packed = new Int32Array(16);
  private words = 0;

  /** Takes in a word: a part of a text. @returns the lower half of its hash */
  add(text: string, from = 0, end = text.length): number {
    let low = 0x811c9dc5;
    let high = 0x1b873593;
    for (let at = from; at < end; at++) {
      const code = text.charCodeAt(at);
      low = Math.imul(low ^ code, 0x01000193);
      high = Math.imul(high ^ code, 0xcc9e2d51);
      high = (high << 13) | (high >>> 19);
    }
    low ^= low >>> 16;
    high ^= high >>> 15;
    this.count(low, 0);
    this.count(high, 8);
    this.words++;
    if (this.words % 255 === 0) this.unpack();
    return low;
  }

  bits(): Uint8Array {
    this.unpack();
    const bits = new Uint8Array(8);
    this.counts.forEach((count, bit) => {
      if (count * 2 > this.words) bits[bit >> 3] = (bits[bit >> 3] ?? 0) | (1 << (bit & 7));
    });
    return bits;
  }

  /** Adds every bit to a byte of its own: those of the number's eighths, one after the other. */
  private count(hash: number, to: number): void {
    const { packed } = this;
    for (let nibble = 0; nibble < 8; nibble++)
      packed[to + nibble] = (packed[to + nibble] ?? 0) + (spread[(hash >>> (nibble * 4)) & 15] ?? 0);
  }

  private unpack(): void {
    const { packed, counts } = this;
    for (let bit = 0; bit < 64; bit++)
      counts[bit] = (counts[bit] ?? 0) + (((packed[bit >> 2] ?? 0) >>> ((bit & 3) * 8)) & 255);
    packed.fill(0);
  }
}

/** Each of four bits in a byte of its own. */
const spread = Int32Array.from(
  { length: 16 },
  (_, bits) => (bits & 1) | ((bits & 2) << 7) | ((bits & 4) << 14) | ((bits & 8) << 21),
);

/** All of a list of names, whatever their order. */
export function simhashOf(names: readonly string[]): Uint8Array {
  const simhash = new Simhash();
  for (const name of names) simhash.add(name);
  return simhash.bits();
}
