const bins = 32;

/** So many bytes it is. */
export const minhashBytes = bins;

/**
 * Of a set of hashes the least in each of 32 bins (one permutation hashing after Li, Owen and Zhang, 2012): two sets share as many
 * of these bytes as they share of what they hold. A bin that nothing falls into is 0.
 */
export class Minhash {
  private readonly least = new Float64Array(bins).fill(Infinity);

  /** Takes in a number of 32 bits. */
  add(value: number): void {
    const hash = stirred(value);
    const bin = hash & (bins - 1);
    const rest = hash >>> 5;
    if (rest < (this.least[bin] ?? 0)) this.least[bin] = rest;
  }

  bytes(): Uint8Array {
    return Uint8Array.from(this.least, (value) => (Number.isFinite(value) ? (value % 255) + 1 : 0));
  }
}

/**
 * What two sets share, by their bytes from a place on: the share of all that either holds, from 0 to 1, and the same by how much
 * there is to share, since two sets of a thing or two are soon the same.
 */
export function sharedOf(a: Uint8Array, b: Uint8Array, from: number): { share: number; weight: number } {
  let [shared, all] = [0, 0];
  for (let at = from; at < from + bins; at++) {
    if ((a[at] ?? 0) === 0 && (b[at] ?? 0) === 0) continue;
    all++;
    if (a[at] === b[at]) shared++;
  }
  return { share: all === 0 ? 0 : shared / all, weight: shared / bins };
}

/** Mixes the bits of a word (the finalizer of MurmurHash3, Appleby, public domain). */
function stirred(word: number): number {
  let bits = word;
  bits = Math.imul(bits ^ (bits >>> 16), 0x85ebca6b);
  bits = Math.imul(bits ^ (bits >>> 13), 0xc2b2ae35);
  return (bits ^ (bits >>> 16)) >>> 0;
}
