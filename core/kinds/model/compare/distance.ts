import { fieldOf, samplesOf, type DistanceField, type Surface } from './surface.ts';

const samples = 10_000;
/** So many vertices are asked about one by one; of more, every n-th. */
const mostVertices = 12_000;

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
 * on simplified surfaces", 1998, sample in the same way).
 */
export function surfaceDistance(old: Surface, now: Surface): SurfaceDistance {
  const forth = oneWay(now, fieldOf(old));
  const back = oneWay(old, fieldOf(now));
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

function oneWay(from: Surface, field: DistanceField): OneWay {
  const result: OneWay = { mean: 0, greatest: 0, at: [0, 0, 0], batches: from.starts.map(() => 0) };
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
  for (const { x, y, z, triangle } of samplesOf(from, samples)) sum += note(x, y, z, triangle);
  result.mean = sum / samples;
  // Spikes are at vertices, and between samples.
  const every = Math.max(1, Math.ceil(from.indices.length / mostVertices));
  const { positions, indices } = from;
  for (let corner = 0; corner < indices.length; corner += every) {
    const at = (indices[corner] ?? 0) * 3;
    note(positions[at] ?? 0, positions[at + 1] ?? 0, positions[at + 2] ?? 0, Math.floor(corner / 3));
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
