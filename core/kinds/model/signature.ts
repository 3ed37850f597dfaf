import { Minhash, minhashBytes } from '../minhash.ts';
import { simhashOf } from '../simhash.ts';
import type { TriangleBatch } from './triangles.ts';

const pairs = 16_384;
const distanceBins = 28;
const [farBins, turnBins] = [8, 6];

/** Where each part of the signature begins, in bytes. */
export const modelSignatureParts = {
  distances: 0,
  proportions: 28,
  size: 30,
  triangles: 31,
  turns: 32,
  extents: 80,
  names: 86,
  corners: 94,
  unwrapped: 94 + minhashBytes,
  end: 94 + 2 * minhashBytes,
} as const;

/**
 * What a shape is like, in 158 bytes: how the distances of pairs of points on its surface are spread, by their mean (the
 * D2 shape distribution of Osada, Funkhouser, Chazelle and Dobkin, 2002), its two proportions and, by the power of two, its
 * size and number of triangles; how the angles between the surfaces at these points are spread, by how far they are apart;
 * its three extents, finely; 64 bits of the names it is made of; and the least hashes of the proportions of its triangles and of
 * their places on the texture, of which what was edited in part shares a part. Whatever its place, turn and order of vertices.
 * @param names of materials, textures, parts and bones
 * @returns null where nothing has a surface
 */
export function modelSignature(
  batches: readonly TriangleBatch[],
  names: readonly string[] = [],
): Uint8Array | null {
  const total3 = batches.reduce((sum, { indices }) => sum + indices.length / 3, 0);
  // Of huge models every n-th triangle stands for its neighbours.
  const step = Math.max(1, Math.floor(total3 / 50_000));
  const surface = surfaceOf(batches, step);
  if (surface.count === 0) return null;
  const { points, normals } = pointsOn(surface);
  const distances = new Float64Array(pairs);
  const cosines = new Float64Array(pairs);
  let mean = 0;
  for (let pair = 0; pair < pairs; pair++) {
    // Partners far apart in the sequence: neighbours of it are not independent.
    const one = pair * 3;
    const other = (pairs + ((pair * 1597) % pairs)) * 3;
    cosines[pair] =
      (normals[one] ?? 0) * (normals[other] ?? 0) +
      (normals[one + 1] ?? 0) * (normals[other + 1] ?? 0) +
      (normals[one + 2] ?? 0) * (normals[other + 2] ?? 0);
    const distance = Math.hypot(
      (points[one] ?? 0) - (points[other] ?? 0),
      (points[one + 1] ?? 0) - (points[other + 1] ?? 0),
      (points[one + 2] ?? 0) - (points[other + 2] ?? 0),
    );
    distances[pair] = distance;
    mean += distance / pairs;
  }
  const parts = modelSignatureParts;
  const signature = new Uint8Array(parts.end);
  const counts = new Float64Array(distanceBins);
  const turned = new Float64Array(farBins * turnBins);
  distances.forEach((distance, pair) => {
    const share = distance / mean / 2.5;
    const bin = Math.min(distanceBins - 1, Math.floor(share * distanceBins));
    counts[bin] = (counts[bin] ?? 0) + 1;
    const far = Math.min(farBins - 1, Math.floor(share * farBins));
    // Whichever way a surface is wound.
    const turn = Math.min(turnBins - 1, Math.floor(Math.abs(cosines[pair] ?? 0) * turnBins));
    turned[far * turnBins + turn] = (turned[far * turnBins + turn] ?? 0) + 1;
  });
  counts.forEach((count, bin) => (signature[parts.distances + bin] = byte((count / pairs) * 1000)));
  // By the root: rare angles tell shapes apart as much as common ones.
  turned.forEach((count, bin) => (signature[parts.turns + bin] = byte(Math.sqrt(count / pairs) * 500)));
  const extents = [0, 1, 2].map((axis) => extentOf(points, axis)).sort((a, b) => b - a);
  const [longest = 0, middle = 0, shortest = 0] = extents;
  signature[parts.proportions] = longest > 0 ? Math.round((middle / longest) * 255) : 0;
  signature[parts.proportions + 1] = longest > 0 ? Math.round((shortest / longest) * 255) : 0;
  signature[parts.size] = byte(128 + Math.log2(longest || 1) * 8);
  signature[parts.triangles] = byte(Math.log2(total3) * 8);
  extents.forEach((extent, axis) => writeLength(extent, signature, parts.extents + axis * 2));
  signature.set(simhashOf(names), parts.names);
  const { corners, unwrapped } = trianglesShared(batches, step);
  signature.set(corners, parts.corners);
  signature.set(unwrapped, parts.unwrapped);
  return signature;
}

/** The least hashes of what each triangle is like, whichever of its corners comes first. */
function trianglesShared(
  batches: readonly TriangleBatch[],
  step: number,
): { corners: Uint8Array; unwrapped: Uint8Array } {
  const [corners, unwrapped] = [new Minhash(), new Minhash()];
  for (const batch of batches) {
    const { uvs, indices } = batch;
    for (let at = 0; at + 2 < indices.length; at += 3 * step) {
      const [a, b, c] = [sideOf(batch, at, 0), sideOf(batch, at, 1), sideOf(batch, at, 2)];
      const long = Math.max(a, b, c);
      const short = Math.min(a, b, c);
      const middle = Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
      if (long > 0) corners.add((proportion(short, long) << 16) ^ proportion(middle, long));
      if (!uvs) continue;
      let hash = 0;
      for (let corner = 0; corner < 3; corner++) {
        const vertex = (indices[at + corner] ?? 0) * 2;
        const u = Math.round((uvs[vertex] ?? 0) * 2048);
        const v = Math.round((uvs[vertex + 1] ?? 0) * 2048);
        hash += Math.imul((u << 16) ^ (v & 0xffff), 0x9e3779b1);
      }
      unwrapped.add(hash);
    }
  }
  return { corners: corners.bytes(), unwrapped: unwrapped.bytes() };
}

/** How long a side is beside the longest, in steps of a hundredth. */
function proportion(side: number, longest: number): number {
  return side > 0 ? Math.max(0, Math.round(Math.log(side / longest) * 100) + 2000) : 0;
}

function sideOf(batch: TriangleBatch, at: number, side: number): number {
  const [from, to] = [at + side, at + ((side + 1) % 3)];
  return Math.hypot(
    corner(batch, to, 0) - corner(batch, from, 0),
    corner(batch, to, 1) - corner(batch, from, 1),
    corner(batch, to, 2) - corner(batch, from, 2),
  );
}

/** A length by its logarithm, in steps of a third of a per cent, in two bytes; the smallest is one of 2^-30. */
function writeLength(length: number, to: Uint8Array, at: number): void {
  const value = Math.max(0, Math.min(0xffff, Math.round((Math.log2(Math.max(length, 2 ** -30)) + 30) * 200)));
  to[at] = value >> 8;
  to[at + 1] = value & 0xff;
}

function byte(value: number): number {
  return Math.max(0, Math.min(255, Math.round(value)));
}

function corner({ positions, indices }: TriangleBatch, at: number, axis: number): number {
  return positions[(indices[at] ?? 0) * 3 + axis] ?? 0;
}

/** Triangles that have an area: nine numbers of their corners, three of where each faces, and the areas up to and with each. */
interface TriangleSurface {
  count: number;
  corners: Float64Array;
  facing: Float64Array;
  areas: Float64Array;
}

/** @param step every so many triangles one is taken */
function surfaceOf(batches: readonly TriangleBatch[], step: number): TriangleSurface {
  const most = batches.reduce((sum, { indices }) => sum + Math.ceil(indices.length / (3 * step)), 0);
  const surface = {
    count: 0,
    corners: new Float64Array(most * 9),
    facing: new Float64Array(most * 3),
    areas: new Float64Array(most),
  };
  let total = 0;
  for (const { positions, indices } of batches)
    for (let at = 0; at + 2 < indices.length; at += 3 * step) {
      const { count, corners, facing, areas } = surface;
      const to = count * 9;
      for (let which = 0; which < 3; which++) {
        const from = (indices[at + which] ?? 0) * 3;
        corners[to + which * 3] = positions[from] ?? 0;
        corners[to + which * 3 + 1] = positions[from + 1] ?? 0;
        corners[to + which * 3 + 2] = positions[from + 2] ?? 0;
      }
      // From the first corner to the second (3 to 5: x, y, z) and to the third (6 to 8).
      const edge = (corner: number): number =>
        (corners[to + corner] ?? 0) - (corners[to + (corner % 3)] ?? 0);
      const [x1, y1, z1, x2, y2, z2] = [edge(3), edge(4), edge(5), edge(6), edge(7), edge(8)];
      // Across the triangle, as long as its area twice.
      const [x, y, z] = [y1 * z2 - z1 * y2, z1 * x2 - x1 * z2, x1 * y2 - y1 * x2];
      const double = Math.hypot(x, y, z);
      if (!(double / 2 > 0)) continue;
      total += double / 2;
      areas[count] = total;
      facing[count * 3] = x / double;
      facing[count * 3 + 1] = y / double;
      facing[count * 3 + 2] = z / double;
      surface.count++;
    }
  return surface;
}

/** Points that are spread evenly over a surface, and where it faces there. */
function pointsOn({ count, corners, facing, areas }: TriangleSurface): {
  points: Float64Array;
  normals: Float64Array;
} {
  const points = new Float64Array(pairs * 2 * 3);
  const normals = new Float64Array(pairs * 2 * 3);
  const { alongAreas, weights } = (sequence ??= makeSequence());
  const total = areas[count - 1] ?? 0;
  for (let point = 0; point < pairs * 2; point++) {
    const wanted = (alongAreas[point] ?? 0) * total;
    let low = 0;
    let high = count - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((areas[middle] ?? 0) < wanted) low = middle + 1;
      else high = middle;
    }
    const [first = 0, second = 0, third = 0] = [
      weights[point * 3],
      weights[point * 3 + 1],
      weights[point * 3 + 2],
    ];
    for (let axis = 0; axis < 3; axis++) {
      const from = low * 9 + axis;
      points[point * 3 + axis] =
        first * (corners[from] ?? 0) + second * (corners[from + 3] ?? 0) + third * (corners[from + 6] ?? 0);
      normals[point * 3 + axis] = facing[low * 3 + axis] ?? 0;
    }
  }
  return { points, normals };
}

/** Where points lie, as shares of all area and as weights of three corners: the same for every model. */
let sequence: { alongAreas: Float64Array; weights: Float64Array } | null = null;

function makeSequence(): { alongAreas: Float64Array; weights: Float64Array } {
  const weights = new Float64Array(pairs * 2 * 3);
  for (let point = 0; point < pairs * 2; point++) {
    const [root, v] = [Math.sqrt(halton(point + 1, 3)), halton(point + 1, 5)];
    weights.set([1 - root, root * (1 - v), root * v], point * 3);
  }
  return {
    alongAreas: Float64Array.from({ length: pairs * 2 }, (_, point) => halton(point + 1, 2)),
    weights,
  };
}

function extentOf(points: Float64Array, axis: number): number {
  let low = Infinity;
  let high = -Infinity;
  for (let at = axis; at < points.length; at += 3) {
    low = Math.min(low, points[at] ?? 0);
    high = Math.max(high, points[at] ?? 0);
  }
  return high - low;
}

/** The Halton sequence: points that are spread evenly, and the same every time. */
function halton(index: number, base: number): number {
  let result = 0;
  let fraction = 1 / base;
  for (let rest = index; rest > 0; rest = Math.floor(rest / base)) {
    result += (rest % base) * fraction;
    fraction /= base;
  }
  return result;
}
