import type { Document, Primitive } from '@gltf-transform/core';
import { simplify, sortPrimitiveWeights, weld } from '@gltf-transform/functions';
import { MeshoptSimplifier } from 'meshoptimizer';
import type { MendSettings } from '../../../../contract/haul-settings.ts';
import { plural } from '../../../figures.ts';
import { TriangleTree } from '../compare/triangle-tree.ts';
import { elements, triangleCount, triangleIndices, trianglesOf } from '../triangles.ts';
import { enclosedVolume, facingOf } from './facing.ts';
import { normalsAround, smoothNormals } from './normals-around.ts';

/** The mode of lists of triangles (glTF 2.0, 3.7.2.1). */
const triangleMode = 4;
/** Places of the old surface from which the new one is measured, at most. */
const measured = 20_000;

/**
 * Mends surfaces as people asked for it, step by step.
 * @returns what was done, in words
 */
export async function mendSurface(document: Document, settings: MendSettings): Promise<string[]> {
  const notes: string[] = [];
  const primitives = document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives());
  const sumOf = (of: (primitive: Primitive) => number): number =>
    primitives.reduce((sum, primitive) => sum + of(primitive), 0);
  if (settings.vertices === 'joined') {
    const before = sumOf(verticesOf);
    await document.transform(weld());
    notes.push(
      `${plural(before - sumOf(verticesOf), 'duplicate vertex').replace('vertexs', 'vertices')} joined`,
    );
  }
  if (settings.triangles !== 'kept') {
    const count = sumOf((primitive) => dropFlat(document, primitive));
    notes.push(`${plural(count, 'triangle')} without area left out`);
  }
  if (settings.facing !== 'kept') {
    const posed = posedPlaces(document);
    const count = sumOf((primitive) => turnOutwards(document, primitive, posed.get(primitive)));
    notes.push(`${plural(count, 'triangle')} turned to face outwards`);
  }
  if (settings.normals !== 'kept') {
    const count = sumOf((primitive) => makeNormals(document, primitive, settings.normals === 'made anew'));
    if (count > 0) notes.push(`normals made for ${plural(count, 'part')}`);
  }
  if (settings.influences !== 'kept') {
    const most = Number(settings.influences);
    const count = sumOf((primitive) => limitInfluences(primitive, most));
    notes.push(`weights of ${plural(count, 'part')} brought to no more than ${most} bones`);
  }
  if (settings.mostTriangles > 0) notes.push(...(await reduceTo(document, settings.mostTriangles)));
  return notes;
}

function verticesOf(primitive: Primitive): number {
  return primitive.getAttribute('POSITION')?.getCount() ?? 0;
}

/** Two corners in one place, or all three on a line. @returns how many went */
function dropFlat(document: Document, primitive: Primitive): number {
  const position = primitive.getAttribute('POSITION');
  if (!position || triangleCount(primitive) === 0) return 0;
  const places = elements(position);
  const corners = triangleIndices(primitive);
  const kept: number[] = [];
  for (let at = 0; at < corners.length; at += 3) {
    const triangle = [corners[at] ?? 0, corners[at + 1] ?? 0, corners[at + 2] ?? 0];
    if (doubleArea(places, triangle) > 0) kept.push(...triangle);
  }
  const dropped = (corners.length - kept.length) / 3;
  if (dropped > 0) setTriangles(document, primitive, new Uint32Array(kept));
  return dropped;
}

/** Twice the area; nothing where it is less than what single precision tells from none. */
function doubleArea(places: Float32Array, triangle: readonly number[]): number {
  const [a = 0, b = 0, c = 0] = triangle.map((vertex) => vertex * 3);
  const edge = (from: number, to: number): [number, number, number] => [
    (places[to] ?? 0) - (places[from] ?? 0),
    (places[to + 1] ?? 0) - (places[from + 1] ?? 0),
    (places[to + 2] ?? 0) - (places[from + 2] ?? 0),
  ];
  const [[ux, uy, uz], [vx, vy, vz]] = [edge(a, b), edge(a, c)];
  const area = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx);
  const longest = Math.hypot(ux, uy, uz) * Math.hypot(vx, vy, vz);
  return area > longest * 1e-6 ? area : 0;
}

function setTriangles(document: Document, primitive: Primitive, indices: Uint32Array): void {
  primitive.setMode(triangleMode).setIndices(
    document
      .createAccessor()
      .setType('SCALAR')
      .setArray(new Uint32Array(indices))
      .setBuffer(document.getRoot().listBuffers()[0] ?? null),
  );
}

/** Where shapes on bones stand: their bones may mirror what their numbers say. Others are turned with their nodes, mirrored or not. */
function posedPlaces(document: Document): Map<Primitive, Float32Array> {
  return new Map(
    trianglesOf(document)
      .filter(({ node }) => node.getSkin())
      .map(({ primitive, positions }) => [primitive, positions]),
  );
}

function turnOutwards(document: Document, primitive: Primitive, posed?: Float32Array): number {
  const position = primitive.getAttribute('POSITION');
  if (!position || triangleCount(primitive) === 0) return 0;
  const corners = triangleIndices(primitive).slice();
  const { turned, count } = facingOf(posed ?? elements(position), corners);
  if (count === 0) return 0;
  const touched = new Set<number>();
  turned.forEach((isTurned, triangle) => {
    if (!isTurned) return;
    const [second = 0, third = 0] = [corners[triangle * 3 + 1], corners[triangle * 3 + 2]];
    corners[triangle * 3 + 1] = third;
    corners[triangle * 3 + 2] = second;
    for (let k = 0; k < 3; k++) touched.add(corners[triangle * 3 + k] ?? 0);
  });
  setTriangles(document, primitive, corners);
  const normal = primitive.getAttribute('NORMAL');
  if (!normal) return count;
  const around = normalsAround(elements(position), corners);
  // Bones may mirror: normals are of the numbers, and triangles of what comes of them.
  const side =
    posed && enclosedVolume(elements(position), corners) * enclosedVolume(posed, corners) < 0 ? -1 : 1;
  const values = elements(normal);
  for (const vertex of touched) {
    const at = vertex * 3;
    const facing =
      (values[at] ?? 0) * (around[at] ?? 0) +
      (values[at + 1] ?? 0) * (around[at + 1] ?? 0) +
      (values[at + 2] ?? 0) * (around[at + 2] ?? 0);
    if (facing * side < 0) for (let axis = 0; axis < 3; axis++) values[at + axis] = -(values[at + axis] ?? 0);
  }
  // Others may have the same numbers.
  primitive.setAttribute('NORMAL', normal.clone().setArray(values).setNormalized(false));
  return count;
}

/** Normals of the triangles around each vertex, of length one. @returns 1 where they were made */
function makeNormals(document: Document, primitive: Primitive, isAnew: boolean): number {
  const position = primitive.getAttribute('POSITION');
  if (!position || triangleCount(primitive) === 0) return 0;
  if (primitive.getAttribute('NORMAL') && !isAnew) return 0;
  const values = smoothNormals(elements(position), triangleIndices(primitive));
  primitive.setAttribute(
    'NORMAL',
    document
      .createAccessor()
      .setType('VEC3')
      .setArray(new Float32Array(values))
      .setBuffer(document.getRoot().listBuffers()[0] ?? null),
  );
  // They were made for other normals.
  primitive.setAttribute('TANGENT', null);
  return 1;
}

/** @returns 1 where there were more */
function limitInfluences(primitive: Primitive, most: number): number {
  const sets = primitive.listSemantics().filter((name) => name.startsWith('WEIGHTS_')).length;
  if (sets * 4 <= most) return 0;
  sortPrimitiveWeights(primitive, most);
  for (let set = most / 4; set < sets; set++) {
    primitive.setAttribute(`WEIGHTS_${set}`, null);
    primitive.setAttribute(`JOINTS_${set}`, null);
  }
  return 1;
}

/** Over seams, too, where keeping them leaves many more triangles than were asked for: of flat shading every edge is one. */
const simplifier = {
  ...MeshoptSimplifier,
  simplify: (
    ...[indices, positions, stride, target, error, flags = []]: Parameters<typeof MeshoptSimplifier.simplify>
  ) => {
    const [kept, off] = MeshoptSimplifier.simplify(indices, positions, stride, target, error, flags);
    if (kept.length <= target * 1.1) return [kept, off];
    return MeshoptSimplifier.simplify(indices, positions, stride, target, error, [...flags, 'Permissive']);
  },
};

/** To a number of triangles, with how far the old surface is from the new one. */
async function reduceTo(document: Document, most: number): Promise<string[]> {
  const before = trianglesOf(document);
  const count = before.reduce((sum, { indices }) => sum + indices.length / 3, 0);
  if (count <= most) return [`${plural(count, 'triangle')}: no more than ${most} were asked for`];
  const points = before.flatMap(({ positions }) => [positions]);
  await MeshoptSimplifier.ready;
  await document.transform(
    weld(),
    simplify({ simplifier, ratio: most / count, error: 1, lockBorder: false }),
  );
  const after = trianglesOf(document);
  const left = after.reduce((sum, { indices }) => sum + indices.length / 3, 0);
  const { farthest, mean, size } = distanceTo(points, after);
  const share = (value: number): string => `${((value / (size || 1)) * 100).toPrecision(2)} %`;
  return [
    `${plural(count, 'triangle')} reduced to ${left}: the old surface is ${share(mean)} of the size from the new one in the mean, ${share(farthest)} at most`,
  ];
}

function distanceTo(
  points: readonly Float32Array[],
  surface: readonly { positions: Float32Array; indices: Uint32Array }[],
): { farthest: number; mean: number; size: number } {
  const positions = new Float32Array(surface.reduce((sum, one) => sum + one.positions.length, 0));
  const indices = new Uint32Array(surface.reduce((sum, one) => sum + one.indices.length, 0));
  let [vertex, corner] = [0, 0];
  for (const one of surface) {
    positions.set(one.positions, vertex * 3);
    for (const index of one.indices) indices[corner++] = index + vertex;
    vertex += one.positions.length / 3;
  }
  const tree = new TriangleTree(positions, indices);
  const total = points.reduce((sum, one) => sum + one.length / 3, 0);
  const step = Math.max(1, Math.ceil(total / measured));
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  let [farthest, sum, looked] = [0, 0, 0];
  for (const one of points)
    for (let at = 0; at < one.length; at += step * 3) {
      const [x = 0, y = 0, z = 0] = [one[at], one[at + 1], one[at + 2]];
      [x, y, z].forEach((value, axis) => {
        low[axis] = Math.min(low[axis] ?? 0, value);
        high[axis] = Math.max(high[axis] ?? 0, value);
      });
      const distance = tree.find(x, y, z);
      if (!Number.isFinite(distance)) continue;
      farthest = Math.max(farthest, distance);
      sum += distance;
      looked++;
    }
  const size = Math.hypot(...high.map((value, axis) => value - (low[axis] ?? 0)));
  return { farthest, mean: looked > 0 ? sum / looked : 0, size };
}
