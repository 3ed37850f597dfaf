/** Reads a block of 128 bits from its lowest bit up. One for all blocks: making one each would take longer than reading. */
export class BlockBits {
  private readonly words = new Int32Array(5);
  private at = 0;

  begin(words: Int32Array, at: number): void {
    this.words[0] = words[at] ?? 0;
    this.words[1] = words[at + 1] ?? 0;
    this.words[2] = words[at + 2] ?? 0;
    this.words[3] = words[at + 3] ?? 0;
    this.at = 0;
  }

  /** @param count 0 to 16 */
  read(count: number): number {
    const word = this.at >>> 5;
    const shift = this.at & 31;
    this.at += count;
    let value = (this.words[word] ?? 0) >>> shift;
    if (shift + count > 32) value |= (this.words[word + 1] ?? 0) << (32 - shift);
    return value & ((1 << count) - 1);
  }
}
