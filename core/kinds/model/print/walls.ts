import type { Manifold, Vec3 } from 'manifold-3d';
import { vec3 } from 'gl-matrix';

const sampled = 800;
const fewSampled = 300;
const manyTriangles = 20_000;

export interface Walls {
  /** The thinnest place that was found, in millimetres. */
  thinnestMm: number;
  /** Share of the surface, 0 to 1, below which less than a wall lies. */
  thinShare: number;
}

/** How thick a solid is below its surface: from places spread evenly over it straight inwards to where it ends. */
export function wallsOf(solid: Manifold, wallMm: number): Walls {
  const { numTri, triVerts, vertProperties, numProp } = solid.getMesh();
  const areas = new Float64Array(numTri + 1);
  const corner = (triangle: number, k: number): vec3 => {
    const at = (triVerts[triangle * 3 + k] ?? 0) * numProp;
    return [vertProperties[at] ?? 0, vertProperties[at + 1] ?? 0, vertProperties[at + 2] ?? 0];
  };
  const crossOf = (triangle: number): vec3 => {
    const a = corner(triangle, 0);
    return vec3.cross(
      vec3.create(),
      vec3.sub(vec3.create(), corner(triangle, 1), a),
      vec3.sub(vec3.create(), corner(triangle, 2), a),
    );
  };
  for (let triangle = 0; triangle < numTri; triangle++)
    areas[triangle + 1] = (areas[triangle] ?? 0) + vec3.length(crossOf(triangle));
  const total = areas[numTri] ?? 0;
  const { min, max } = solid.boundingBox();
  const reach = Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
  let [triangle, thin, thinnestMm, looked] = [0, 0, reach, 0];
  const samples = numTri > manyTriangles ? fewSampled : sampled;
  for (let sample = 0; sample < samples; sample++) {
    const wanted = ((sample + 0.5) / samples) * total;
    while (triangle < numTri - 1 && (areas[triangle + 1] ?? 0) < wanted) triangle++;
    const normal = vec3.normalize(vec3.create(), crossOf(triangle));
    // Its own middle: the same places whenever it is looked at.
    const middle = vec3.create();
    for (let k = 0; k < 3; k++) vec3.scaleAndAdd(middle, middle, corner(triangle, k), 1 / 3);
    const from = vec3.scaleAndAdd(vec3.create(), middle, normal, -1e-4);
    const to = vec3.scaleAndAdd(vec3.create(), middle, normal, -reach);
    const [hit] = solid.rayCast([...from] as Vec3, [...to] as Vec3).sort((a, b) => a.distance - b.distance);
    if (!hit) continue;
    looked++;
    const thickness = Math.hypot(...hit.position.map((value, axis) => value - (from[axis] ?? 0))) + 1e-4;
    thinnestMm = Math.min(thinnestMm, thickness);
    if (thickness < wallMm) thin++;
  }
  return { thinnestMm, thinShare: looked > 0 ? thin / looked : 0 };
}
