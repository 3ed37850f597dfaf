import type { Raster } from '../../reading.ts';
import { drawBatches, type Surface as Look } from '../render.ts';
import type { TriangleBatch } from '../triangles.ts';
import { colourOfDistance } from './distance-colour.ts';
import { fieldOf, type Surface } from './surface.ts';

const mostVertices = 12_000;

/** The newer model from the usual place, each corner in the colour of its distance to the older surface. */
export function drawDistances(
  batches: readonly TriangleBatch[],
  old: Surface,
  greatestMetres: number,
): Raster | null {
  const field = fieldOf(old);
  const total = batches.reduce((sum, { positions }) => sum + positions.length / 3, 0);
  const every = Math.max(1, Math.ceil(total / mostVertices));
  const looks = batches.map((batch): Look => {
    const colours = new Float32Array(batch.positions.length);
    let colour: readonly [number, number, number] = [0, 0, 0];
    for (let at = 0; at < batch.positions.length; at += 3) {
      if ((at / 3) % every === 0) {
        const metres = field.distance(
          batch.positions[at] ?? 0,
          batch.positions[at + 1] ?? 0,
          batch.positions[at + 2] ?? 0,
        );
        colour = colourOfDistance(metres, greatestMetres);
      }
      colours.set(colour, at);
    }
    return { colour: [0, 0, 0], texture: null, colours };
  });
  return drawBatches(batches, looks);
}
