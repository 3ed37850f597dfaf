import type { Shell } from './shells.ts';

/** How far places are from triangles, near to them, and what they enclose. */
export interface DistanceGrid {
  min: [number, number, number];
  max: [number, number, number];
  step: number;
  /** Above zero within `radius` of a triangle and in what they enclose, below it outside. */
  valueAt: (x: number, y: number, z: number) => number;
}

/** 64 MB of numbers. */
const mostPlaces = 2 ** 24;
/** Edges of triangles that are looked at whole, in steps of the grid. */
const largestSteps = 6;

/**
 * A grid of distances from triangles. What cannot be reached from outside without coming nearer than `radius` counts as enclosed: holes
 * smaller than twice that do not matter, nor which way triangles face.
 * @param step between places of the grid
 * @throws RangeError where the grid would be too large
 */
export function distanceGrid(shells: readonly Shell[], radius: number, step: number): DistanceGrid {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const { positions } of shells)
    for (let at = 0; at < positions.length; at++) {
      const axis = at % 3;
      min[axis] = Math.min(min[axis] ?? 0, positions[at] ?? 0);
      max[axis] = Math.max(max[axis] ?? 0, positions[at] ?? 0);
    }
  const margin = radius + step * 2;
  for (let axis = 0; axis < 3; axis++) {
    min[axis] = (min[axis] ?? 0) - margin;
    max[axis] = (max[axis] ?? 0) + margin;
  }
  const counts = min.map((from, axis) => Math.ceil(((max[axis] ?? 0) - from) / step) + 1);
  const [width = 1, height = 1, depth = 1] = counts;
  if (!(width * height * depth <= mostPlaces))
    throw new RangeError(`a grid of ${width} × ${height} × ${depth} places is too large`);
  // Beyond this nothing has to be known exactly.
  const reach = radius + step * 1.8;
  const distances = new Float32Array(width * height * depth).fill(reach);
  for (const shell of shells) addShell(shell, { min, step, counts, reach }, distances);
  const values = distances;
  for (let at = 0; at < values.length; at++) values[at] = radius - (distances[at] ?? 0);
  fillEnclosed(values, counts, radius);
  return { min, max, step, valueAt: interpolated(values, min, step, counts) };
}

function addShell(
  { positions, indices }: Shell,
  {
    min,
    step,
    counts,
    reach,
  }: { min: readonly number[]; step: number; counts: readonly number[]; reach: number },
  distances: Float32Array,
): void {
  const [width = 1, height = 1] = counts;
  const from = [0, 0, 0];
  const to = [0, 0, 0];
  /** Large triangles in parts: the box around one that lies aslant is mostly far from it. */
  const add = (corners: Float64Array): void => {
    const parts = halves(corners, step * largestSteps);
    if (parts) {
      add(parts[0]);
      add(parts[1]);
      return;
    }
    for (let axis = 0; axis < 3; axis++) {
      const [a = 0, b = 0, c = 0] = [corners[axis], corners[axis + 3], corners[axis + 6]];
      const origin = min[axis] ?? 0;
      from[axis] = Math.max(0, Math.ceil((Math.min(a, b, c) - reach - origin) / step));
      to[axis] = Math.min((counts[axis] ?? 1) - 1, Math.floor((Math.max(a, b, c) + reach - origin) / step));
    }
    for (let z = from[2] ?? 0; z <= (to[2] ?? 0); z++)
      for (let y = from[1] ?? 0; y <= (to[1] ?? 0); y++)
        for (let x = from[0] ?? 0; x <= (to[0] ?? 0); x++) {
          const place = (z * height + y) * width + x;
          const distance = toTriangle(
            corners,
            (min[0] ?? 0) + x * step,
            (min[1] ?? 0) + y * step,
            (min[2] ?? 0) + z * step,
          );
          if (distance < (distances[place] ?? 0)) distances[place] = distance;
        }
  };
  const done = new Set<string>();
  for (let at = 0; at < indices.length; at += 3) {
    // Some files have the same triangle thousands of times.
    const key = [...indices.subarray(at, at + 3)].sort((a, b) => a - b).join(' ');
    if (done.has(key)) continue;
    done.add(key);
    add(
      Float64Array.from(
        { length: 9 },
        (_, k) => positions[(indices[at + Math.floor(k / 3)] ?? 0) * 3 + (k % 3)] ?? 0,
      ),
    );
  }
}

/** A triangle parted in the middle of its longest edge; null where that is no longer than is wanted. */
function halves(corners: Float64Array, longest: number): [Float64Array, Float64Array] | null {
  let [edge, length] = [0, 0];
  for (let k = 0; k < 3; k++) {
    const [a, b] = [k * 3, ((k + 1) % 3) * 3];
    const own = Math.hypot(
      (corners[b] ?? 0) - (corners[a] ?? 0),
      (corners[b + 1] ?? 0) - (corners[a + 1] ?? 0),
      (corners[b + 2] ?? 0) - (corners[a + 2] ?? 0),
    );
    if (own > length) [edge, length] = [k, own];
  }
  if (length <= longest) return null;
  const [a, b] = [edge * 3, ((edge + 1) % 3) * 3];
  const [first, second] = [corners.slice(), corners.slice()];
  for (let axis = 0; axis < 3; axis++) {
    const middle = ((corners[a + axis] ?? 0) + (corners[b + axis] ?? 0)) / 2;
    first[b + axis] = middle;
    second[a + axis] = middle;
  }
  return [first, second];
}

/** Distance of a place to a triangle, by the region in which it lies (Ericson, Real-Time Collision Detection, 5.1.5). */
function toTriangle(c: Float64Array, x: number, y: number, z: number): number {
  const ax = c[0] ?? 0;
  const ay = c[1] ?? 0;
  const az = c[2] ?? 0;
  const ux = (c[3] ?? 0) - ax;
  const uy = (c[4] ?? 0) - ay;
  const uz = (c[5] ?? 0) - az;
  const vx = (c[6] ?? 0) - ax;
  const vy = (c[7] ?? 0) - ay;
  const vz = (c[8] ?? 0) - az;
  const px = x - ax;
  const py = y - ay;
  const pz = z - az;
  const d1 = ux * px + uy * py + uz * pz;
  const d2 = vx * px + vy * py + vz * pz;
  const uv = ux * vx + uy * vy + uz * vz;
  const d3 = d1 - (ux * ux + uy * uy + uz * uz);
  const d4 = d2 - uv;
  const d5 = d1 - uv;
  const d6 = d2 - (vx * vx + vy * vy + vz * vz);
  const vc = d1 * d4 - d3 * d2;
  const vb = d5 * d2 - d1 * d6;
  const va = d3 * d6 - d5 * d4;
  let s = 0;
  let t = 0;
  if (d1 <= 0 && d2 <= 0) {
    // The first corner.
  } else if (d3 >= 0 && d4 <= d3) s = 1;
  else if (vc <= 0 && d1 >= 0 && d3 <= 0) s = d1 / (d1 - d3);
  else if (d6 >= 0 && d5 <= d6) t = 1;
  else if (vb <= 0 && d2 >= 0 && d6 <= 0) t = d2 / (d2 - d6);
  else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    t = (d4 - d3) / (d4 - d3 + (d5 - d6));
    s = 1 - t;
  } else {
    s = vb / (va + vb + vc);
    t = vc / (va + vb + vc);
  }
  const dx = px - s * ux - t * vx;
  const dy = py - s * uy - t * vy;
  const dz = pz - s * uz - t * vz;
  return Math.sqrt(dx * dx + dy * dy + dz * dz);
}

/** What is not reached from the rim of the grid over places outside becomes part of the solid. */
function fillEnclosed(values: Float32Array, counts: readonly number[], radius: number): void {
  const [width = 1, height = 1, depth = 1] = counts;
  const isOutside = new Uint8Array(values.length);
  const waiting = [0];
  isOutside[0] = 1;
  const look = (place: number): void => {
    if (isOutside[place] || (values[place] ?? 0) > 0) return;
    isOutside[place] = 1;
    waiting.push(place);
  };
  while (waiting.length > 0) {
    const place = waiting.pop() as number;
    const x = place % width;
    const y = Math.floor(place / width) % height;
    const z = Math.floor(place / (width * height));
    if (x > 0) look(place - 1);
    if (x < width - 1) look(place + 1);
    if (y > 0) look(place - width);
    if (y < height - 1) look(place + width);
    if (z > 0) look(place - width * height);
    if (z < depth - 1) look(place + width * height);
  }
  for (let place = 0; place < values.length; place++)
    if (!isOutside[place] && (values[place] ?? 0) <= 0) values[place] = radius;
}

function interpolated(
  values: Float32Array,
  min: readonly number[],
  step: number,
  counts: readonly number[],
): DistanceGrid['valueAt'] {
  const [width = 1, height = 1, depth = 1] = counts;
  const [left = 0, bottom = 0, back = 0] = min;
  return (x, y, z) => {
    const [gx, gy, gz] = [(x - left) / step, (y - bottom) / step, (z - back) / step];
    const [cx, cy, cz] = [Math.floor(gx), Math.floor(gy), Math.floor(gz)];
    if (cx < 0 || cy < 0 || cz < 0 || cx >= width - 1 || cy >= height - 1 || cz >= depth - 1) return -step;
    const [fx, fy, fz] = [gx - cx, gy - cy, gz - cz];
    const at = (cz * height + cy) * width + cx;
    const line = (from: number): number =>
      (values[from] ?? 0) + ((values[from + 1] ?? 0) - (values[from] ?? 0)) * fx;
    const face = (from: number): number => line(from) + (line(from + width) - line(from)) * fy;
    const front = face(at);
    return front + (face(at + width * height) - front) * fz;
  };
}
