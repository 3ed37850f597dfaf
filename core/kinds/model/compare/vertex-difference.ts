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
  if (after.isWeights) {
    if (
      Number.isNaN(before.values[oldVertex * before.size]) ||
      Number.isNaN(after.values[vertex * after.size])
    )
      return oneSided(before, oldVertex, after, vertex);
    return weightsApart(
      (bone) => weightOf(before, oldVertex, bone),
      (bone) => weightOf(after, vertex, bone),
      [...bonesOf(before, oldVertex), ...bonesOf(after, vertex)],
    );
  }
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

/** By how much the weight of any bone differs at most. */
function weightsApart(
  before: (bone: number) => number,
  after: (bone: number) => number,
  bones: readonly number[],
): number {
  let most = 0;
  for (const bone of bones) most = Math.max(most, Math.abs(before(bone) - after(bone)));
  return most;
}

/** The same between places inside two triangles. @param shares of the corners of the older one; the newer one's count alike */
export function weightsBetween(
  { old: before, now: after }: Pair,
  oldCorners: readonly number[],
  shares: readonly number[],
  corners: readonly number[],
): number {
  const isThere = (data: VertexData, all: readonly number[]): boolean =>
    all.every((vertex) => !Number.isNaN(data.values[vertex * data.size]));
  if (!isThere(before, oldCorners) || !isThere(after, corners))
    return oneSided(before, oldCorners[0] ?? 0, after, corners[0] ?? 0);
  return weightsApart(
    (bone) =>
      oldCorners.reduce((sum, vertex, at) => sum + weightOf(before, vertex, bone) * (shares[at] ?? 0), 0),
    (bone) => corners.reduce((sum, vertex) => sum + weightOf(after, vertex, bone) / corners.length, 0),
    [
      ...oldCorners.flatMap((vertex) => bonesOf(before, vertex)),
      ...corners.flatMap((vertex) => bonesOf(after, vertex)),
    ],
  );
}

function bonesOf({ size, values }: VertexData, vertex: number): number[] {
  const bones: number[] = [];
  for (let at = vertex * size; at < (vertex + 1) * size && (values[at] ?? 0) > 0; at += 2)
    bones.push(values[at] ?? 0);
  return bones;
}

function weightOf({ size, values }: VertexData, vertex: number, bone: number): number {
  for (let at = vertex * size; at < (vertex + 1) * size; at += 2)
    if (values[at] === bone) return values[at + 1] ?? 0;
  return 0;
}
