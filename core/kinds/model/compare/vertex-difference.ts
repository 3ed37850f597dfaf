import type { VertexData } from './vertex-data.ts';

/** Something that vertices of two surfaces have, as normals. */
export interface Pair {
  name: string;
  tolerance: number;
  old: VertexData;
  now: VertexData;
}

/** How far the values of two vertices are from one another. */
export function vertexDifference(
  { old: before, now: after }: Pair,
  oldVertex: number,
  vertex: number,
): number {
  let sum = 0;
  for (let part = 0; part < after.size; part++) {
    const by =
      (after.values[vertex * after.size + part] ?? 0) - (before.values[oldVertex * after.size + part] ?? 0);
    sum += by * by;
  }
  return Number.isNaN(sum) ? oneSided(before, oldVertex, after, vertex) : Math.sqrt(sum);
}

/** Of what is not a number on either side: no difference; on one side: all of it. */
export function oneSided(before: VertexData, oldVertex: number, after: VertexData, vertex: number): number {
  return Number.isNaN(before.values[oldVertex * before.size]) &&
    Number.isNaN(after.values[vertex * after.size])
    ? 0
    : Infinity;
}
