import type { SharedTriangles } from './shared-triangles.ts';
import { fieldOf, samplesOf, type Surface } from './surface.ts';

const samples = 10_000;
/** So many points of triangles that only one has are asked about one by one; of more, every n-th. */
const mostPoints = 12_000;

export interface SurfaceDistance {
  /** Mean of both directions, by area. */
  meanMetres: number;
  greatestMetres: number;
  /** Where the greatest is. */
  at: [number, number, number];
  /** Greatest distance of a point of each batch of the newer surface to the older one, then the other way. */
  newBatches: number[];
  oldBatches: number[];
}

/**
 * How far two surfaces are from one another: from points of either to the nearest point of the other. The greatest is the
 * Hausdorff distance as far as the samples and vertices show it (Cignoni, Rocchini and Scopigno, "Metro: measuring error
 * on simplified surfaces", 1998, sample in the same way). Triangles that both have need not be asked about: what changed is looked at the more closely.
 */
export function surfaceDistance(old: Surface, now: Surface, shared: SharedTriangles): SurfaceDistance {
  const forth = oneWay(now, shared.newShared, old);
  const back = oneWay(old, shared.oldShared, now);
  const farther = forth.greatest >= back.greatest ? forth : back;
  return {
    meanMetres: (forth.mean + back.mean) / 2,
    greatestMetres: farther.greatest,
    at: farther.at,
    newBatches: forth.batches,
    oldBatches: back.batches,
  };
}

interface OneWay {
  mean: number;
  greatest: number;
  at: [number, number, number];
  batches: number[];
}

function oneWay(from: Surface, isShared: Uint8Array, to: Surface): OneWay {
  const result: OneWay = { mean: 0, greatest: 0, at: [0, 0, 0], batches: from.starts.map(() => 0) };
  const own: number[] = [];
  for (let triangle = 0; triangle < isShared.length; triangle++)
    if (isShared[triangle] === 0) own.push(triangle);
  if (own.length === 0) return result;
  const field = fieldOf(to);
  const batchOf = batchFinder(from.starts);
  const note = (x: number, y: number, z: number, triangle: number): number => {
    const distance = field.distance(x, y, z);
    const batch = batchOf(triangle);
    if (distance > (result.batches[batch] ?? 0)) result.batches[batch] = distance;
    if (distance > result.greatest) {
      result.greatest = distance;
      result.at = [x, y, z];
    }
    return distance;
  };
  let sum = 0;
  for (const { x, y, z, triangle } of samplesOf(from, samples))
    if (isShared[triangle] === 0) sum += note(x, y, z, triangle);
  result.mean = sum / samples;
  // Spikes are at vertices, and between samples; small holes in the middle of triangles. An odd step takes all in turn.
  const every = own.length * 4 <= mostPoints ? 1 : Math.ceil((own.length * 4) / mostPoints) | 1;
  for (let point = 0; point < own.length * 4; point += every) {
    const triangle = own[point >> 2] ?? 0;
    const corner = (which: number, axis: number): number =>
      from.positions[(from.indices[triangle * 3 + which] ?? 0) * 3 + axis] ?? 0;
    const which = point & 3;
    const place = (axis: number): number =>
      which < 3 ? corner(which, axis) : (corner(0, axis) + corner(1, axis) + corner(2, axis)) / 3;
    note(place(0), place(1), place(2), triangle);
  }
  return result;
}

function batchFinder(starts: readonly number[]): (triangle: number) => number {
  return (triangle) => {
    let batch = starts.length - 1;
    while (batch > 0 && (starts[batch] ?? 0) > triangle) batch--;
    return batch;
  };
}
