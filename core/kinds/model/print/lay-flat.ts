import type { Manifold } from 'manifold-3d';
import { mat4, quat, vec3 } from 'gl-matrix';
import type { Bed } from './pieces.ts';
import type { SolidRoom } from './solid.ts';

/** Faces of the hull that are tried beside the six sides. */
const triedFaces = 24;
/** Normals of faces that count as one, in steps of each axis. */
const normalSteps = 60;
/** How far the middle of a face may be above the bed, in millimetres, and how far it may be turned from it, as a cosine. */
const touchingMm = 0.02;
const flatCosine = Math.cos(Math.PI / 180);
const down: vec3 = [0, 0, -1];

export interface LaidPiece {
  /** Z up, its middle above the origin, standing at height 0. */
  solid: Manifold;
  /** Whether it fits the bed. */
  fits: boolean;
  /** Square millimetres that touch the bed. */
  contactMm2: number;
}

interface Laid {
  turn: mat4;
  min: vec3;
  max: vec3;
  fits: boolean;
  /** Whether it fits as it is, or turned on the bed by a right angle. */
  fitsSo: boolean;
  contactMm2: number;
}

/** Triangles of a solid by what laying it down asks of them. */
interface Faces {
  places: Float32Array;
  /** xyz triples. */
  normals: Float32Array;
  middles: Float32Array;
  areas: Float32Array;
}

/**
 * Turns a piece so that as much of it as can be lies on the bed, among the ways that fit.
 * @param bed nothing where there is no limit
 */
export function layFlat(room: SolidRoom, piece: Manifold, bed: Bed | null): LaidPiece {
  const faces = facesOf(piece);
  let best: Laid | null = null;
  for (const direction of downDirections(room, piece)) {
    const laid = laidBy(faces, direction, bed);
    if (!best || isBetter(laid, best)) best = laid;
  }
  if (!best) return { solid: piece, fits: false, contactMm2: 0 };
  const { turn, min, max, fits, fitsSo, contactMm2 } = best;
  const laid = room.keep(piece.transform([...turn] as Parameters<Manifold['transform']>[0]));
  const middle = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2] as const;
  const placed = fitsSo
    ? laid.translate([-middle[0], -middle[1], -min[2]])
    : room.keep(laid.rotate([0, 0, 90])).translate([middle[1], -middle[0], -min[2]]);
  return { solid: room.keep(placed), fits, contactMm2 };
}

function isBetter(laid: Laid, best: Laid): boolean {
  if (laid.fits !== best.fits) return laid.fits;
  const height = ({ min, max }: Laid): number => max[2] - min[2];
  return (
    laid.contactMm2 > best.contactMm2 * 1.001 ||
    (laid.contactMm2 > best.contactMm2 * 0.999 && height(laid) < height(best) * 0.999)
  );
}

function fitsWithin(size: readonly number[], bed: Bed): boolean {
  return size.every((value, axis) => value <= (bed[axis] ?? 0) * (1 + 1e-5));
}

function laidBy({ places, normals, middles, areas }: Faces, direction: vec3, bed: Bed | null): Laid {
  const rotation = quat.create() as [number, number, number, number];
  quat.rotationTo(rotation, direction, down);
  const turn = mat4.fromQuat(mat4.create(), rotation);
  const min: vec3 = [Infinity, Infinity, Infinity];
  const max: vec3 = [-Infinity, -Infinity, -Infinity];
  for (let at = 0; at < places.length; at += 3)
    for (const axis of [0, 1, 2] as const) {
      const value = along(turn, axis, places, at);
      if (value < min[axis]) min[axis] = value;
      if (value > max[axis]) max[axis] = value;
    }
  let contactMm2 = 0;
  for (let at = 0; at < normals.length; at += 3)
    if (along(turn, 2, normals, at) < -flatCosine && along(turn, 2, middles, at) - min[2] < touchingMm)
      contactMm2 += areas[at / 3] ?? 0;
  const [width, depth, height] = [max[0] - min[0], max[1] - min[1], max[2] - min[2]];
  const fitsSo = !bed || fitsWithin([width, depth, height], bed);
  const fits = fitsSo || fitsWithin([depth, width, height], bed ?? [0, 0, 0]);
  return { turn, min, max, fits, fitsSo: fitsSo || !fits, contactMm2 };
}

/** One axis of a turned triple. */
function along(turn: mat4, axis: 0 | 1 | 2, values: Float32Array, at: number): number {
  return (
    (turn[axis] ?? 0) * (values[at] ?? 0) +
    (turn[axis + 4] ?? 0) * (values[at + 1] ?? 0) +
    (turn[axis + 8] ?? 0) * (values[at + 2] ?? 0)
  );
}

/** The six sides, and the largest faces of the hull: whatever a thing can stand on is one of those. */
function downDirections(room: SolidRoom, piece: Manifold): vec3[] {
  const sides: vec3[] = [
    [0, 0, -1],
    [0, 0, 1],
    [0, -1, 0],
    [0, 1, 0],
    [-1, 0, 0],
    [1, 0, 0],
  ];
  const { normals, areas } = facesOf(room.keep(piece.hull()));
  const sums = new Map<string, { normal: vec3; area: number }>();
  areas.forEach((area, at) => {
    const normal: vec3 = [normals[at * 3] ?? 0, normals[at * 3 + 1] ?? 0, normals[at * 3 + 2] ?? 0];
    const key = [...normal].map((value) => Math.round(value * normalSteps)).join(' ');
    const known = sums.get(key);
    if (known) known.area += area;
    else sums.set(key, { normal, area });
  });
  const largest = [...sums.values()].sort((a, b) => b.area - a.area).slice(0, triedFaces);
  return [...sides, ...largest.map(({ normal }) => normal)];
}

function facesOf(solid: Manifold): Faces {
  const { numTri, numVert, triVerts, vertProperties, numProp } = solid.getMesh();
  const places = new Float32Array(numVert * 3);
  for (let vertex = 0; vertex < numVert; vertex++)
    places.set(vertProperties.subarray(vertex * numProp, vertex * numProp + 3), vertex * 3);
  const faces: Faces = {
    places,
    normals: new Float32Array(numTri * 3),
    middles: new Float32Array(numTri * 3),
    areas: new Float32Array(numTri),
  };
  const [first, second, normal] = [vec3.create(), vec3.create(), vec3.create()];
  for (let at = 0; at < numTri * 3; at += 3) {
    const corner = (k: number): vec3 => {
      const place = (triVerts[at + k] ?? 0) * 3;
      return places.subarray(place, place + 3);
    };
    const [a, b, c] = [corner(0), corner(1), corner(2)];
    vec3.cross(normal, vec3.sub(first, b, a), vec3.sub(second, c, a));
    faces.areas[at / 3] = vec3.length(normal) / 2;
    faces.normals.set(vec3.normalize(normal, normal), at);
    for (let axis = 0; axis < 3; axis++)
      faces.middles[at + axis] = ((a[axis] ?? 0) + (b[axis] ?? 0) + (c[axis] ?? 0)) / 3;
  }
  return faces;
}
