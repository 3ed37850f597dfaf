export interface Attribute {
  /** As glTF names it. */
  name: string;
  /** Values to a vertex. */
  size: number;
  values: Float32Array;
  isInteger: boolean;
}

/**
 * Makes one vertex of those whose attributes are equal to the last bit, by a hash table with open addressing.
 * @param corners three to a triangle, by their vertices
 * @returns indices to the vertices that are kept, in the order of their first use
 */
export function weld(
  attributes: readonly Attribute[],
  corners: Uint32Array,
): { indices: Uint32Array; kept: Uint32Array } {
  const words = attributes.map(({ values, size }) => ({
    bits: new Uint32Array(values.buffer, values.byteOffset, values.length),
    size,
  }));
  const size = 2 ** Math.ceil(Math.log2(corners.length * 2 + 1));
  const table = new Int32Array(size).fill(-1);
  const kept = new Uint32Array(corners.length);
  const indices = new Uint32Array(corners.length);
  let count = 0;
  corners.forEach((vertex, corner) => {
    let slot = hashOf(words, vertex) & (size - 1);
    for (;;) {
      const there = table[slot] ?? -1;
      if (there < 0) {
        table[slot] = count;
        kept[count] = vertex;
        indices[corner] = count++;
        return;
      }
      if (areEqual(words, kept[there] ?? 0, vertex)) {
        indices[corner] = there;
        return;
      }
      slot = (slot + 1) & (size - 1);
    }
  });
  return { indices, kept: kept.slice(0, count) };
}

type Words = readonly { bits: Uint32Array; size: number }[];

function hashOf(words: Words, vertex: number): number {
  let hash = 0x811c9dc5;
  for (const { bits, size } of words)
    for (let part = 0; part < size; part++) {
      hash = Math.imul(hash ^ (bits[vertex * size + part] ?? 0), 0x01000193);
      hash ^= hash >>> 15;
    }
  return hash >>> 0;
}

function areEqual(words: Words, a: number, b: number): boolean {
  for (const { bits, size } of words)
    for (let part = 0; part < size; part++) if (bits[a * size + part] !== bits[b * size + part]) return false;
  return true;
}
