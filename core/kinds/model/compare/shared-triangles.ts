import type { Surface } from './surface.ts';

/** Corners nearer to one another than this share of the size are one: far less than numbers of 16 bits leave. */
const cellShare = 1 / 200_000;

/** Triangles that two surfaces have in common, whatever the order of vertices and indices. */
export interface SharedTriangles {
  /** For each triangle of the newer surface an older one with the same corners, -1 where there is none. */
  partners: Int32Array;
  /** For each older triangle the next one with the same corners, -1 after the last. */
  next: Int32Array;
  /** 1 for each older triangle that the newer surface has too. */
  oldShared: Uint8Array;
  newShared: Uint8Array;
  /** Vertices with equal keys are at one place. */
  oldVertices: Float64Array;
  newVertices: Float64Array;
}

/** Finds triangles of the newer surface among the older ones by what their corners are. */
export function sharedTriangles(old: Surface, now: Surface): SharedTriangles {
  const oldVertices = vertexKeys(old, old);
  const newVertices = vertexKeys(now, old);
  const oldKeys = triangleKeys(old, oldVertices);
  const newKeys = triangleKeys(now, newVertices);
  const firsts = new Map<number, number>();
  const next = new Int32Array(oldKeys.length).fill(-1);
  for (let triangle = oldKeys.length - 1; triangle >= 0; triangle--) {
    const key = oldKeys[triangle] ?? 0;
    next[triangle] = firsts.get(key) ?? -1;
    firsts.set(key, triangle);
  }
  const partners = new Int32Array(newKeys.length);
  const oldShared = new Uint8Array(oldKeys.length);
  const newShared = new Uint8Array(newKeys.length);
  for (let triangle = 0; triangle < newKeys.length; triangle++) {
    const partner = firsts.get(newKeys[triangle] ?? 0) ?? -1;
    partners[triangle] = partner;
    newShared[triangle] = partner < 0 ? 0 : 1;
    for (let at = partner; at >= 0 && oldShared[at] === 0; at = next[at] ?? -1) oldShared[at] = 1;
  }
  return { partners, next, oldShared, newShared, oldVertices, newVertices };
}

/**
 * 53 bits of the cell in which each vertex lies, in the older surface's grid.
 * @param offset by which share of a cell the grid is put aside: what a border parts in one grid lies together in the other
 */
export function vertexKeys({ positions }: Surface, { min, diagonal }: Surface, offset = 0): Float64Array {
  const perMetre = diagonal > 0 ? 1 / (diagonal * cellShare) : 1;
  const keys = new Float64Array(positions.length / 3);
  for (let vertex = 0; vertex < keys.length; vertex++) {
    let low = 0x2545f491;
    let high = 0x9e3779b9 | 0;
    for (let axis = 0; axis < 3; axis++) {
      const cell = Math.round(((positions[vertex * 3 + axis] ?? 0) - (min[axis] ?? 0)) * perMetre + offset);
      low = Math.imul(low ^ cell, 0x85ebca6b);
      low ^= low >>> 13;
      high = Math.imul(high ^ cell ^ low, 0xc2b2ae35);
      high ^= high >>> 16;
    }
    keys[vertex] = joined(high, low);
  }
  return keys;
}

/** The same for the same three corners in any order. */
function triangleKeys({ indices }: Surface, vertices: Float64Array): Float64Array {
  const keys = new Float64Array(indices.length / 3);
  for (let triangle = 0; triangle < keys.length; triangle++) {
    let [sum, product] = [0, 1];
    for (let corner = 0; corner < 3; corner++) {
      const key = vertices[indices[triangle * 3 + corner] ?? 0] ?? 0;
      const low = key | 0;
      const high = (key / 2 ** 21) | 0;
      sum = (sum + Math.imul(low ^ (high >>> 7), 0x85ebca6b)) | 0;
      product = Math.imul(product, (high ^ low) | 1);
    }
    keys[triangle] = joined(product, sum);
  }
  return keys;
}

function joined(high: number, low: number): number {
  return (high >>> 0) * 2 ** 21 + (low >>> 11);
}
