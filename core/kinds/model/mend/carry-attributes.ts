import type { Document, Primitive } from '@gltf-transform/core';
import { unweld, weld } from '@gltf-transform/functions';
import { plural } from '../../../figures.ts';
import type { Raster } from '../../reading.ts';
import { TriangleTree } from '../compare/triangle-tree.ts';
import { drawBatches } from '../render.ts';
import { elements, numbersOf, triangleIndices, trianglesOf, type TriangleBatch } from '../triangles.ts';
import { normalsAround } from './normals-around.ts';

/** How far a corner is moved to the middle of its triangle before it is looked for, so that it finds its own side of a seam. */
const inwards = 0.08;
/** Cosine beyond which surfaces face apart. */
const leastFacing = 0.3;

export interface CarriedAttributes {
  notes: string[];
  /** What found no partner, in colour; nothing where all did. */
  picture: Raster | null;
}

/**
 * Takes colours, UV sets, normals and weights of another export of the same mesh over, by the place of each corner and the way that it
 * faces: values of the surface that is nearest there, between its own corners.
 * @param within how far apart places may be, as a share of the size, 0 to 1
 */
export async function carryAttributes(
  target: Document,
  source: Document,
  within: number,
): Promise<CarriedAttributes> {
  const from = surfaceOf(trianglesOf(source));
  if (!from) return { notes: ['the other model has no triangles: nothing was taken over'], picture: null };
  await target.transform(unweld());
  const [taken, skins] = [new Set<string>(), weightsFit(source, target)];
  let [corners, lost] = [0, 0];
  const batches = trianglesOf(target);
  const unmatched: Uint8Array[] = [];
  const done = new Set<Primitive>();
  for (const batch of batches) {
    const matches = matchesOf(batch, from, within * from.size);
    unmatched.push(Uint8Array.from(matches.triangles, (triangle) => (triangle < 0 ? 1 : 0)));
    corners += matches.triangles.length;
    lost += matches.triangles.reduce((sum, triangle) => sum + (triangle < 0 ? 1 : 0), 0);
    if (done.has(batch.primitive)) continue;
    done.add(batch.primitive);
    for (const name of from.names) {
      const isBinding = name.startsWith('JOINTS_') || name.startsWith('WEIGHTS_');
      if (isBinding && !skins) continue;
      if (take(target, batch.primitive, from, matches, name)) taken.add(name);
    }
  }
  await target.transform(weld());
  const picture = lost > 0 ? pictureOf(batches, unmatched) : null;
  return {
    picture,
    notes: [
      taken.size > 0
        ? `${[...taken].sort().join(', ')} taken over for ${(((corners - lost) / (corners || 1)) * 100).toFixed(1)} % of ${plural(corners, 'corner')}`
        : 'the other model has nothing to take over',
      ...(lost > 0
        ? [
            `${plural(lost, 'corner')} found no partner within ${(within * 100).toPrecision(2)} % of the size: they keep what they had`,
          ]
        : []),
      ...(from.hasWeights && !skins ? ['weights stay: the two skeletons have other bones'] : []),
    ],
  };
}

interface Surface {
  tree: TriangleTree;
  positions: Float32Array;
  indices: Uint32Array;
  faces: Float32Array;
  size: number;
  names: string[];
  hasWeights: boolean;
  /** Values of an attribute by vertex; nothing where no part has it. */
  valuesOf: (name: string) => { values: Float32Array; width: number } | null;
}

function surfaceOf(batches: readonly TriangleBatch[]): Surface | null {
  const vertices = batches.reduce((sum, { positions }) => sum + positions.length / 3, 0);
  const positions = new Float32Array(vertices * 3);
  const corners: number[] = [];
  let first = 0;
  for (const batch of batches) {
    positions.set(batch.positions, first * 3);
    for (const vertex of batch.indices) corners.push(vertex + first);
    first += batch.positions.length / 3;
  }
  if (corners.length === 0) return null;
  const indices = new Uint32Array(corners);
  const names = [...new Set(batches.flatMap(({ primitive }) => primitive.listSemantics()))].filter((name) =>
    /^(NORMAL|(COLOR|TEXCOORD|JOINTS|WEIGHTS)_\d+)$/.test(name),
  );
  let size = 0;
  for (const axis of [0, 1, 2]) {
    let [low, high] = [Infinity, -Infinity];
    for (let at = axis; at < positions.length; at += 3) {
      low = Math.min(low, positions[at] ?? 0);
      high = Math.max(high, positions[at] ?? 0);
    }
    size = Math.max(size, high - low);
  }
  const known = new Map<string, ReturnType<Surface['valuesOf']>>();
  return {
    tree: new TriangleTree(positions, indices),
    ...{ positions, indices, size, names },
    hasWeights: names.includes('WEIGHTS_0'),
    faces: faceNormals(positions, indices),
    valuesOf: (name) => {
      const made = known.get(name) ?? gathered(batches, vertices, name);
      known.set(name, made);
      return made;
    },
  };
}

function gathered(
  batches: readonly TriangleBatch[],
  vertices: number,
  name: string,
): ReturnType<Surface['valuesOf']> {
  const width = Math.max(
    0,
    ...batches.map(({ primitive }) => primitive.getAttribute(name)?.getElementSize() ?? 0),
  );
  if (width === 0) return null;
  const values = new Float32Array(vertices * width).fill(name.startsWith('COLOR_') ? 1 : 0);
  let first = 0;
  for (const { primitive, positions } of batches) {
    const accessor = primitive.getAttribute(name);
    if (accessor) {
      const own = name.startsWith('JOINTS_') ? Float32Array.from(numbersOf(accessor)) : elements(accessor);
      const size = accessor.getElementSize();
      for (let vertex = 0; vertex * size < own.length; vertex++)
        values.set(own.subarray(vertex * size, vertex * size + size), (first + vertex) * width);
    }
    first += positions.length / 3;
  }
  return { values, width };
}

function faceNormals(positions: Float32Array, indices: Uint32Array): Float32Array {
  const faces = new Float32Array(indices.length);
  for (let at = 0; at < indices.length; at += 3) {
    const sums = normalsAround(
      Float32Array.from(
        { length: 9 },
        (_, k) => positions[(indices[at + Math.floor(k / 3)] ?? 0) * 3 + (k % 3)] ?? 0,
      ),
      new Uint32Array([0, 1, 2]),
    );
    const length = Math.hypot(sums[0] ?? 0, sums[1] ?? 0, sums[2] ?? 0) || 1;
    for (let axis = 0; axis < 3; axis++) faces[at + axis] = (sums[axis] ?? 0) / length;
  }
  return faces;
}

interface Matches {
  /** Of each corner the triangle of the other surface, or -1. */
  triangles: Int32Array;
  /** Shares of its three corners. */
  shares: Float32Array;
}

function matchesOf({ positions, indices }: TriangleBatch, from: Surface, reach: number): Matches {
  const matches: Matches = {
    triangles: new Int32Array(indices.length).fill(-1),
    shares: new Float32Array(indices.length * 3),
  };
  const faces = faceNormals(positions, indices);
  for (let at = 0; at < indices.length; at += 3) {
    const middle = [0, 1, 2].map(
      (axis) =>
        [0, 1, 2].reduce((sum, k) => sum + (positions[(indices[at + k] ?? 0) * 3 + axis] ?? 0), 0) / 3,
    );
    for (let k = 0; k < 3; k++) {
      const vertex = (indices[at + k] ?? 0) * 3;
      const place = [0, 1, 2].map((axis) => positions[vertex + axis] ?? 0);
      const looked = place.map((value, axis) => value + ((middle[axis] ?? 0) - value) * inwards);
      const triangle = facingPartner(looked, faces.subarray(at, at + 3), from, reach);
      matches.triangles[at + k] = triangle;
      if (triangle >= 0) matches.shares.set(sharesIn(place, from, triangle), (at + k) * 3);
    }
  }
  return matches;
}

/** The nearest triangle that faces alike; a step along the own face tells two sides of a sheet apart. */
function facingPartner(place: readonly number[], face: Float32Array, from: Surface, reach: number): number {
  for (const step of [0, reach * 0.25, -reach * 0.25]) {
    const [x = 0, y = 0, z = 0] = place.map((value, axis) => value + (face[axis] ?? 0) * step);
    const distance = from.tree.find(x, y, z, reach + Math.abs(step));
    if (!Number.isFinite(distance)) continue;
    const { triangle } = from.tree;
    const facing = [0, 1, 2].reduce(
      (sum, axis) => sum + (face[axis] ?? 0) * (from.faces[triangle * 3 + axis] ?? 0),
      0,
    );
    if (facing >= leastFacing) return triangle;
  }
  return -1;
}

/** Barycentric shares of a place in a triangle, brought into it. */
function sharesIn(place: readonly number[], { positions, indices }: Surface, triangle: number): number[] {
  const corner = (k: number, axis: number): number =>
    positions[(indices[triangle * 3 + k] ?? 0) * 3 + axis] ?? 0;
  const [u, v, w] = [
    [0, 1, 2].map((axis) => corner(1, axis) - corner(0, axis)),
    [0, 1, 2].map((axis) => corner(2, axis) - corner(0, axis)),
    [0, 1, 2].map((axis) => (place[axis] ?? 0) - corner(0, axis)),
  ] as [number[], number[], number[]];
  const dot = (a: readonly number[], b: readonly number[]): number =>
    a.reduce((sum, value, axis) => sum + value * (b[axis] ?? 0), 0);
  const [uu, uv, vv, wu, wv] = [dot(u, u), dot(u, v), dot(v, v), dot(w, u), dot(w, v)];
  const whole = uu * vv - uv * uv;
  if (!(whole > 0)) return [1, 0, 0];
  const second = (vv * wu - uv * wv) / whole;
  const third = (uu * wv - uv * wu) / whole;
  const shares = [1 - second - third, second, third].map((share) => Math.max(0, share));
  const sum = shares.reduce((total, share) => total + share, 0) || 1;
  return shares.map((share) => share / sum);
}

/** @returns whether the primitive got it */
function take(
  document: Document,
  primitive: Primitive,
  from: Surface,
  { triangles, shares }: Matches,
  name: string,
): boolean {
  const given = from.valuesOf(name);
  const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
  if (!given || count === 0) return false;
  const { values, width } = given;
  const old = primitive.getAttribute(name);
  const result = new Float32Array(count * width).fill(name.startsWith('COLOR_') ? 1 : 0);
  if (old?.getElementSize() === width)
    result.set(name.startsWith('JOINTS_') ? numbersOf(old) : elements(old));
  const corners = triangleIndices(primitive);
  const isWhole = name.startsWith('JOINTS_') || name.startsWith('WEIGHTS_');
  corners.forEach((vertex, corner) => {
    const triangle = triangles[corner] ?? -1;
    if (triangle < 0) return;
    const share = [0, 1, 2].map((k) => shares[corner * 3 + k] ?? 0);
    // Numbers of bones have nothing between them: they and their weights are those of the nearest corner.
    const nearest = share.indexOf(Math.max(...share));
    for (let part = 0; part < width; part++) {
      let value = 0;
      for (let k = 0; k < 3; k++)
        value +=
          (values[(from.indices[triangle * 3 + k] ?? 0) * width + part] ?? 0) *
          (isWhole ? (k === nearest ? 1 : 0) : (share[k] ?? 0));
      result[vertex * width + part] = value;
    }
  });
  const accessor = document
    .createAccessor()
    .setType(width === 2 ? 'VEC2' : width === 3 ? 'VEC3' : 'VEC4')
    .setArray(name.startsWith('JOINTS_') ? Uint16Array.from(result) : result)
    .setBuffer(document.getRoot().listBuffers()[0] ?? null);
  primitive.setAttribute(name, accessor);
  return true;
}

/** Whether numbers of bones mean the same in both. */
function weightsFit(source: Document, target: Document): boolean {
  const bonesOf = (document: Document): string[][] =>
    document
      .getRoot()
      .listSkins()
      .map((skin) => skin.listJoints().map((joint) => joint.getName()));
  const [first, second] = [bonesOf(source), bonesOf(target)];
  return first.length === 1 && second.length === 1 && first[0]?.join('\n') === second[0]?.join('\n');
}

function pictureOf(batches: readonly TriangleBatch[], unmatched: readonly Uint8Array[]): Raster | null {
  return drawBatches(
    batches.map(({ positions, indices }) => ({ positions, indices, uvs: null })),
    batches.map(({ positions, indices }, at) => {
      const colours = new Float32Array(positions.length).fill(0.5);
      indices.forEach((vertex, corner) => {
        if (unmatched[at]?.[corner]) colours.set([0.75, 0.12, 0.04], vertex * 3);
      });
      return { colour: [0.5, 0.5, 0.5], texture: null, colours };
    }),
  );
}
