import type { Sketch } from './sketch.ts';

const bands = 4;
const bandBits = 16;

/**
 * Finds sketches that differ in few bits (multi-index hashing after Norouzi, Punjani and Fleet, 2012): each is filed under
 * its four parts of 16 bits; two that differ in at most seven share a part but for one bit.
 */
export class SketchIndex {
  /** By band and value: where its items begin. */
  private readonly begins: Int32Array[] = [];
  private readonly items: Int32Array[] = [];
  private readonly sketches: readonly Sketch[];

  constructor(sketches: readonly Sketch[]) {
    this.sketches = sketches;
    for (let band = 0; band < bands; band++) {
      const begins = new Int32Array(2 ** bandBits + 1);
      for (const sketch of sketches) {
        const after = partOf(sketch, band) + 1;
        begins[after] = (begins[after] ?? 0) + 1;
      }
      for (let value = 0; value < 2 ** bandBits; value++)
        begins[value + 1] = (begins[value + 1] ?? 0) + (begins[value] ?? 0);
      const next = begins.slice();
      const items = new Int32Array(sketches.length);
      sketches.forEach((sketch, item) => {
        const value = partOf(sketch, band);
        const place = next[value] ?? 0;
        items[place] = item;
        next[value] = place + 1;
      });
      this.begins.push(begins);
      this.items.push(items);
    }
  }

  /**
   * Calls for each that differs in at most so many bits; some may come more than once.
   * @param mostOfBucket of a part that very many share, so many are looked at: even pictures all look the same
   */
  near(
    sketch: Sketch,
    mostBits: number,
    mostOfBucket: number,
    call: (item: number, bits: number) => void,
  ): void {
    for (let band = 0; band < bands; band++) {
      const part = partOf(sketch, band);
      this.bucket(band, part, sketch, mostBits, mostOfBucket, call);
      for (let bit = 0; bit < bandBits; bit++)
        this.bucket(band, part ^ (1 << bit), sketch, mostBits, mostOfBucket, call);
    }
  }

  private bucket(
    band: number,
    value: number,
    sketch: Sketch,
    mostBits: number,
    mostOfBucket: number,
    call: (item: number, bits: number) => void,
  ): void {
    const begin = this.begins[band]?.[value] ?? 0;
    const end = this.begins[band]?.[value + 1] ?? 0;
    const items = this.items[band];
    if (!items) return;
    for (let at = begin; at < Math.min(end, begin + mostOfBucket); at++) {
      const item = items[at] ?? 0;
      const other = this.sketches[item];
      if (!other) continue;
      const bits = countBits(sketch[0] ^ other[0]) + countBits(sketch[1] ^ other[1]);
      if (bits <= mostBits) call(item, bits);
    }
  }
}

function partOf([low, high]: Sketch, band: number): number {
  return ((band < 2 ? low : high) >>> ((band & 1) * 16)) & 0xffff;
}

/** Ones of 32 bits, by halves (common practice, no published source). */
function countBits(value: number): number {
  let bits = value - ((value >>> 1) & 0x55555555);
  bits = (bits & 0x33333333) + ((bits >>> 2) & 0x33333333);
  bits = (bits + (bits >>> 4)) & 0x0f0f0f0f;
  return Math.imul(bits, 0x01010101) >>> 24;
}
