import type { MapScene } from '../../../contract/assets.ts';

/** What a map costs before anything of it is loaded. */
export interface MapCost {
  placements: number;
  /** Models that are there, each once however often it stands. */
  models: number;
  missing: number;
  /** Models of which nothing is known yet: the rest is at the least. */
  unread: number;
  /** Of all that stands, as often as it stands. */
  triangles: number;
  materials: number;
  textures: number;
  /** To fetch: files of models, each once. */
  fetchBytes: number;
  /** To hold: corners and triangles of models, each once, and where each of them stands; without textures. */
  holdBytes: number;
}

/** A corner with its normal and texture coordinates as floats; a triangle with indices of four bytes; a place as a matrix. */
const [cornerBytes, triangleBytes, placeBytes] = [32, 12, 64];

export function costOf({ placements, models, costs }: MapScene): MapCost {
  const counts = new Map<string, number>();
  for (const { model } of placements) counts.set(model, (counts.get(model) ?? 0) + 1);
  const cost: MapCost = {
    ...{ placements: placements.length, models: 0, missing: 0, unread: 0, triangles: 0, materials: 0 },
    ...{ textures: 0, fetchBytes: 0, holdBytes: placements.length * placeBytes },
  };
  const seen = new Set<string>();
  for (const [model, count] of counts) {
    const path = models[model] ?? null;
    if (path === null) {
      cost.missing++;
      continue;
    }
    const known = costs[path];
    if (known) cost.triangles += known.triangles * count;
    // Two names of one file are one file.
    if (seen.has(path)) continue;
    seen.add(path);
    cost.models++;
    if (!known) cost.unread++;
    else {
      cost.materials += known.materials;
      cost.textures += known.textures;
      cost.fetchBytes += known.bytes ?? 0;
      cost.holdBytes += known.vertices * cornerBytes + known.triangles * triangleBytes;
    }
  }
  return cost;
}
