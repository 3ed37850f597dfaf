import type { TriangleBatch } from '../triangles.ts';
import { TriangleTree } from './triangle-tree.ts';

type Shape = Pick<TriangleBatch, 'positions' | 'indices'>;

/** All triangles of a model in one, to be asked how far points are from them. */
export interface Surface {
  /** xyz triples in metres. */
  positions: Float32Array;
  /** Three to a triangle. */
  indices: Uint32Array;
  /** Diagonal of the bounds in metres. */
  diagonal: number;
  min: readonly [number, number, number];
  max: readonly [number, number, number];
  /** Which batch a triangle is of, by the first triangle of each. */
  starts: readonly number[];
}

/**
 * Triangles with a corner that is nowhere (infinite, or not a number) are not part of it.
 * @returns null where nothing has a surface
 */
export function surfaceOf(batches: readonly Shape[]): Surface | null {
  const vertices = batches.reduce((sum, { positions }) => sum + positions.length, 0);
  const corners = batches.reduce((sum, { indices }) => sum + indices.length, 0);
  const positions = new Float32Array(vertices);
  const indices = new Uint32Array(corners);
  const starts: number[] = [];
  let [vertexAt, cornerAt] = [0, 0];
  for (const batch of batches) {
    starts.push(cornerAt / 3);
    positions.set(batch.positions, vertexAt);
    for (let corner = 0; corner + 2 < batch.indices.length; corner += 3) {
      if (!isPlaced(batch, corner)) continue;
      for (let at = corner; at < corner + 3; at++)
        indices[cornerAt++] = (batch.indices[at] ?? 0) + vertexAt / 3;
    }
    vertexAt += batch.positions.length;
  }
  if (cornerAt === 0) return null;
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  // Of what is drawn: vertices that no triangle uses are not part of the shape.
  for (let corner = 0; corner < cornerAt; corner++)
    for (const axis of [0, 1, 2] as const) {
      const value = positions[(indices[corner] ?? 0) * 3 + axis] ?? 0;
      if (value < min[axis]) min[axis] = value;
      if (value > max[axis]) max[axis] = value;
    }
  const diagonal = Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
  return { positions, indices: indices.subarray(0, cornerAt), diagonal, min, max, starts };
}

function isPlaced({ positions, indices }: Shape, corner: number): boolean {
  let sum = 0;
  for (let at = corner; at < corner + 3; at++)
    for (let axis = 0; axis < 3; axis++) sum += positions[(indices[at] ?? 0) * 3 + axis] ?? NaN;
  return Number.isFinite(sum);
}

/** How many triangles have a corner that is nowhere. */
export function countUnplaced(batches: readonly Shape[]): number {
  let count = 0;
  for (const batch of batches)
    for (let corner = 0; corner + 2 < batch.indices.length; corner += 3)
      if (!isPlaced(batch, corner)) count++;
  return count;
}

/** Distances from points to a surface. Building takes most of the time: keep it while there are points to ask about. */
export class DistanceField {
  private readonly tree: TriangleTree;
  private readonly indices: Uint32Array;
  private last: readonly [number, number, number] = [Infinity, 0, 0];
  private lastDistance = Infinity;

  constructor({ positions, indices }: Surface) {
    this.indices = indices;
    this.tree = new TriangleTree(positions, indices);
  }

  /** Metres from a point to the nearest triangle. */
  distance(x: number, y: number, z: number): number {
    const [lastX, lastY, lastZ] = this.last;
    // Points come in an order in which neighbours follow one another: no farther than the last one's way and the way to it.
    const way = Math.sqrt((x - lastX) ** 2 + (y - lastY) ** 2 + (z - lastZ) ** 2);
    const bound = (this.lastDistance + way) * 1.000001 + 1e-9;
    const found = Number.isFinite(bound) ? this.tree.find(x, y, z, bound) : Infinity;
    this.lastDistance = found < Infinity ? found : this.tree.find(x, y, z);
    this.last = [x, y, z];
    return this.lastDistance;
  }

  /** The corners of the triangle that is nearest to a point, and where it is nearest. */
  nearest(
    x: number,
    y: number,
    z: number,
  ): { corners: [number, number, number]; point: { x: number; y: number; z: number } } | null {
    const { tree, indices } = this;
    if (tree.find(x, y, z) === Infinity) return null;
    const at = tree.triangle * 3;
    return {
      corners: [indices[at] ?? 0, indices[at + 1] ?? 0, indices[at + 2] ?? 0],
      point: { x: tree.x, y: tree.y, z: tree.z },
    };
  }
}

const fields = new WeakMap<Surface, DistanceField>();

/** The field of a surface, built once. */
export function fieldOf(surface: Surface): DistanceField {
  const known = fields.get(surface) ?? new DistanceField(surface);
  fields.set(surface, known);
  return known;
}

export interface Sample {
  x: number;
  y: number;
  z: number;
  triangle: number;
}

/**
 * Points that lie evenly over a surface, by area: the same every time (the R2 sequence of Roberts, 2018, for the place in
 * a triangle). Not vertices alone: a flat wall has few of them.
 */
export function* samplesOf(surface: Surface, count: number): Generator<Sample> {
  const { positions, indices } = surface;
  const triangles = indices.length / 3;
  const sums = new Float64Array(triangles);
  let total = 0;
  for (let triangle = 0; triangle < triangles; triangle++) {
    const area = areaOf(surface, triangle);
    total += Number.isFinite(area) ? area : 0;
    sums[triangle] = total;
  }
  let triangle = 0;
  for (let sample = 0; sample < count; sample++) {
    const wanted = ((sample + 0.5) / count) * total;
    while (triangle < triangles - 1 && (sums[triangle] ?? 0) < wanted) triangle++;
    let u = (0.5 + sample * 0.7548776662466927) % 1;
    let v = (0.5 + sample * 0.5698402909980532) % 1;
    if (u + v > 1) [u, v] = [1 - u, 1 - v];
    const value = (axis: number): number => {
      const at = (corner: number): number => positions[(indices[triangle * 3 + corner] ?? 0) * 3 + axis] ?? 0;
      return at(0) * (1 - u - v) + at(1) * u + at(2) * v;
    };
    yield { x: value(0), y: value(1), z: value(2), triangle };
  }
}

/** Square metres of one triangle. */
export function areaOf({ positions, indices }: Surface, triangle: number): number {
  const a = (indices[triangle * 3] ?? 0) * 3;
  const b = (indices[triangle * 3 + 1] ?? 0) * 3;
  const c = (indices[triangle * 3 + 2] ?? 0) * 3;
  const ax = positions[a] ?? 0;
  const ay = positions[a + 1] ?? 0;
  const az = positions[a + 2] ?? 0;
  const ux = (positions[b] ?? 0) - ax;
  const uy = (positions[b + 1] ?? 0) - ay;
  const uz = (positions[b + 2] ?? 0) - az;
  const vx = (positions[c] ?? 0) - ax;
  const vy = (positions[c + 1] ?? 0) - ay;
  const vz = (positions[c + 2] ?? 0) - az;
  return Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
}
