import type { PathIndex } from '../search/path-index.ts';
import { stemOf } from '../names/split.ts';

/** Finds paths by their names without folder and extension, whatever the case: sorted hashes beside the paths' numbers. */
export class StemIndex {
  private readonly hashes: Uint32Array;
  private readonly numbers: Uint32Array;
  private readonly index: PathIndex;

  /** @param keyOf what of a path is looked up; what has no key is not found */
  constructor(index: PathIndex, keyOf: (path: string) => string = (path) => stemOf(path).toLowerCase()) {
    this.index = index;
    // Hash and number in one: sorting numbers of 64 bits is faster than sorting pairs.
    const all = new BigUint64Array(index.size);
    let count = 0;
    for (let number = 0; number < index.size; number++) {
      const key = keyOf(index.path(number));
      if (key !== '') all[count++] = (BigInt(hashOf(key)) << 32n) | BigInt(number);
    }
    const pairs = all.subarray(0, count).sort();
    this.hashes = Uint32Array.from(pairs, (pair) => Number(pair >> 32n));
    this.numbers = Uint32Array.from(pairs, (pair) => Number(pair & 0xffffffffn));
    this.keyOf = keyOf;
  }

  private readonly keyOf: (path: string) => string;

  /** Every path with such a stem, in order. */
  each(stem: string, visit: (number: number) => void): void {
    const key = stem.toLowerCase();
    const hash = hashOf(key);
    let low = 0;
    let high = this.hashes.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.hashes[middle] ?? 0) < hash) low = middle + 1;
      else high = middle;
    }
    for (; this.hashes[low] === hash; low++) {
      const number = this.numbers[low] ?? 0;
      if (this.keyOf(this.index.path(number)) === key) visit(number);
    }
  }
}

/** FNV-1a over UTF-16 units (Fowler, Noll, Vo: 32 bits). */
function hashOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  return hash >>> 0;
}
