import type { TriangleBatch } from './triangles.ts';

const bins = 28;
const pairs = 16_384;

/**
 * What a shape is like, in 32 bytes: how the distances of pairs of points on its surface are spread, by their mean (the
 * D2 shape distribution of Osada, Funkhouser, Chazelle and Dobkin, 2002), then its two proportions and, by the power of
 * two, its size and number of triangles. Whatever its place, turn and order of vertices. Null where nothing has a surface.
 */
export function modelSignature(batches: readonly TriangleBatch[]): Uint8Array | null {
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
    if (place) pointOn(place.batch, place.at, halton(point + 1, 3), halton(point + 1, 5), points, point * 3);
  }
  const distances = new Float64Array(pairs);
  let mean = 0;
  for (let pair = 0; pair < pairs; pair++) {
    // Partners far apart in the sequence: neighbours of it are not independent.
    const other = pairs + ((pair * 1597) % pairs);
    const distance = Math.hypot(
      ...[0, 1, 2].map((axis) => (points[pair * 3 + axis] ?? 0) - (points[other * 3 + axis] ?? 0)),
    );
    distances[pair] = distance;
    mean += distance / pairs;
  }
  const signature = new Uint8Array(bins + 4);
  const counts = new Float64Array(bins);
  for (const distance of distances) {
    const bin = Math.min(bins - 1, Math.floor((distance / mean / 2.5) * bins));
    counts[bin] = (counts[bin] ?? 0) + 1;
  }
  counts.forEach((count, bin) => (signature[bin] = Math.min(255, Math.round((count / pairs) * 1000))));
  const extents = [0, 1, 2].map((axis) => extentOf(points, axis)).sort((a, b) => b - a);
  const [longest = 0, middle = 0, shortest = 0] = extents;
  signature[bins] = longest > 0 ? Math.round((middle / longest) * 255) : 0;
  signature[bins + 1] = longest > 0 ? Math.round((shortest / longest) * 255) : 0;
  signature[bins + 2] = Math.max(0, Math.min(255, Math.round(128 + Math.log2(longest || 1) * 8)));
  signature[bins + 3] = Math.min(255, Math.round(Math.log2(total3) * 8));
  return signature;
}

function corner({ positions, indices }: TriangleBatch, at: number, axis: number): number {
  return positions[(indices[at] ?? 0) * 3 + axis] ?? 0;
}

function areaOf(batch: TriangleBatch, at: number): number {
  const edge = (to: number, axis: number): number => corner(batch, at + to, axis) - corner(batch, at, axis);
  const x = edge(1, 1) * edge(2, 2) - edge(1, 2) * edge(2, 1);
  const y = edge(1, 2) * edge(2, 0) - edge(1, 0) * edge(2, 2);
  const z = edge(1, 0) * edge(2, 1) - edge(1, 1) * edge(2, 0);
  return Math.hypot(x, y, z) / 2;
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
