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
  const areas: number[] = [];
  const places: { batch: TriangleBatch; at: number }[] = [];
  let total = 0;
  const total3 = batches.reduce((sum, { indices }) => sum + indices.length / 3, 0);
  // Of huge models every n-th triangle stands for its neighbours.
  const step = Math.max(1, Math.floor(total3 / 50_000));
  for (const batch of batches)
    for (let at = 0; at + 2 < batch.indices.length; at += 3 * step) {
      const area = areaOf(batch, at);
      if (!(area > 0)) continue;
      total += area;
      areas.push(total);
      places.push({ batch, at });
    }
  if (places.length === 0) return null;
  const points = new Float64Array(pairs * 2 * 3);
  const normals = new Float64Array(pairs * 2 * 3);
  for (let point = 0; point < pairs * 2; point++) {
    const wanted = halton(point + 1, 2) * total;
    let low = 0;
    let high = areas.length - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((areas[middle] ?? 0) < wanted) low = middle + 1;
      else high = middle;
    }
    const place = places[low];
    if (!place) continue;
    pointOn(place.batch, place.at, halton(point + 1, 3), halton(point + 1, 5), points, point * 3);
    normalOf(place.batch, place.at, normals, point * 3);
  }
  const distances = new Float64Array(pairs);
  const cosines = new Float64Array(pairs);
  let mean = 0;
  for (let pair = 0; pair < pairs; pair++) {
    // Partners far apart in the sequence: neighbours of it are not independent.
    const other = pairs + ((pair * 1597) % pairs);
    for (let axis = 0; axis < 3; axis++)
      cosines[pair] =
        (cosines[pair] ?? 0) + (normals[pair * 3 + axis] ?? 0) * (normals[other * 3 + axis] ?? 0);
    const distance = Math.hypot(
      ...[0, 1, 2].map((axis) => (points[pair * 3 + axis] ?? 0) - (points[other * 3 + axis] ?? 0)),
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
      const sides = [0, 1, 2].map((side) => sideOf(batch, at, side)).sort((a, b) => a - b);
      const [short = 0, middle = 0, long = 0] = sides;
      if (long > 0) corners.add((proportion(short, long) << 16) ^ proportion(middle, long));
      if (!uvs) continue;
      let hash = 0;
      for (let corner = 0; corner < 3; corner++) {
        const vertex = (indices[at + corner] ?? 0) * 2;
        const [u, v] = [uvs[vertex] ?? 0, uvs[vertex + 1] ?? 0].map((value) => Math.round(value * 2048));
        hash += Math.imul(((u ?? 0) << 16) ^ ((v ?? 0) & 0xffff), 0x9e3779b1);
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

/** The direction that a triangle faces. */
function normalOf(batch: TriangleBatch, at: number, to: Float64Array, place: number): void {
  const [x, y, z] = doubleArea(batch, at);
  const length = Math.hypot(x, y, z) || 1;
  to.set([x / length, y / length, z / length], place);
}

function corner({ positions, indices }: TriangleBatch, at: number, axis: number): number {
  return positions[(indices[at] ?? 0) * 3 + axis] ?? 0;
}

function areaOf(batch: TriangleBatch, at: number): number {
  return Math.hypot(...doubleArea(batch, at)) / 2;
}

/** Across the triangle, as long as its area twice. */
function doubleArea(batch: TriangleBatch, at: number): [number, number, number] {
  const edge = (to: number, axis: number): number => corner(batch, at + to, axis) - corner(batch, at, axis);
  return [
    edge(1, 1) * edge(2, 2) - edge(1, 2) * edge(2, 1),
    edge(1, 2) * edge(2, 0) - edge(1, 0) * edge(2, 2),
    edge(1, 0) * edge(2, 1) - edge(1, 1) * edge(2, 0),
  ];
}

function pointOn(
  batch: TriangleBatch,
  at: number,
  u: number,
  v: number,
  to: Float64Array,
  place: number,
): void {
  const root = Math.sqrt(u);
  const weights = [1 - root, root * (1 - v), root * v];
  for (let axis = 0; axis < 3; axis++)
    to[place + axis] = weights.reduce(
      (sum, weight, which) => sum + weight * corner(batch, at + which, axis),
      0,
    );
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
