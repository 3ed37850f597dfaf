import { colourOfDistance } from '../../../core/kinds/model/compare/distance-colour.ts';
import { DistanceField, surfaceOf } from '../../../core/kinds/model/compare/surface.ts';

/** Triangles of a model where they stand: xyz triples in metres, three indices to a triangle. */
export interface Shape {
  positions: Float32Array;
  indices: Uint32Array;
}

export interface DistanceRequest {
  old: Shape;
  now: Shape;
}

export interface DistanceAnswer {
  /** rgb triples of linear light for each vertex of the newer model. */
  colours: Float32Array;
  greatestMetres: number;
}

/** A thread that measures how far each vertex of a model is from the surface of another one. */
self.onmessage = ({ data: { old, now } }: MessageEvent<DistanceRequest>): void => {
  const surface = surfaceOf([old]);
  const colours = new Float32Array(now.positions.length);
  const metres = new Float32Array(now.positions.length / 3);
  let greatestMetres = 0;
  if (surface) {
    const field = new DistanceField(surface);
    for (let vertex = 0; vertex < metres.length; vertex++) {
      const at = vertex * 3;
      const distance = field.distance(
        now.positions[at] ?? 0,
        now.positions[at + 1] ?? 0,
        now.positions[at + 2] ?? 0,
      );
      metres[vertex] = distance;
      greatestMetres = Math.max(greatestMetres, distance);
    }
  }
  metres.forEach((distance, vertex) => colours.set(colourOfDistance(distance, greatestMetres), vertex * 3));
  (self as unknown as Worker).postMessage({ colours, greatestMetres } satisfies DistanceAnswer, [
    colours.buffer,
  ]);
};
