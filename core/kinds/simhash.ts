/**
 * 64 bits of which each tells whether more words have it set or not in a hash of their own (simhash, Charikar 2002), so that
 * lists of nearly the same words differ in few.
 */
export class Simhash {
  private readonly counts = new Int32Array(64);
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
    const { counts } = this;
    for (let bit = 0; bit < 32; bit++) {
      counts[bit] = (counts[bit] ?? 0) + ((low >>> bit) & 1);
      counts[bit + 32] = (counts[bit + 32] ?? 0) + ((high >>> bit) & 1);
    }
    this.words++;
    return low;
  }

  bits(): Uint8Array {
    const bits = new Uint8Array(8);
    this.counts.forEach((count, bit) => {
      if (count * 2 > this.words) bits[bit >> 3] = (bits[bit >> 3] ?? 0) | (1 << (bit & 7));
    });
    return bits;
  }
}

/** All of a list of names, whatever their order. */
export function simhashOf(names: readonly string[]): Uint8Array {
  const simhash = new Simhash();
  for (const name of names) simhash.add(name);
  return simhash.bits();
}
