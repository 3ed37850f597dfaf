import type { Accessor, Document, Primitive } from '@gltf-transform/core';
import { plural } from '../../../figures.ts';
import { elements, numbersOf, triangleCount, triangleIndices } from '../triangles.ts';
import { normalsAround } from './normals-around.ts';

/** The mode of lists of triangles (glTF 2.0, 3.7.2.1). */
const triangleMode = 4;
/** A weight is off by no more than this where its numbers have 8 bits. */
const weightTolerance = 0.005;
/** What a sum of floats may be off by (glTF 2.0, 3.7.3.3). */
const roundingTolerance = 2e-7;
const unitTolerance = 0.0005;

/**
 * Leaves in shapes only what their format allows (glTF 2.0, 3.7): corners that there are, finite numbers, normals of length one and
 * weights that add up to one.
 * @returns what was done, in words
 */
export function mendShapes(document: Document): string[] {
  const notes: string[] = [];
  let [dropped, normals, weights] = [0, 0, 0];
  const turned = new Set<Accessor>();
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      dropped += dropImpossible(document, primitive);
      const normal = primitive.getAttribute('NORMAL');
      if (normal && !turned.has(normal)) {
        turned.add(normal);
        normals += mendNormals(primitive, normal);
      }
      weights += mendWeights(primitive);
    }
  if (dropped > 0) notes.push(`${plural(dropped, 'triangle')} without a place left out`);
  if (normals > 0) notes.push(`${plural(normals, 'normal')} brought to length one`);
  if (weights > 0) notes.push(`weights of ${plural(weights, 'part')} made to add up to one`);
  return notes;
}

/** Drops triangles whose corners are not there, or lie nowhere. @returns how many */
function dropImpossible(document: Document, primitive: Primitive): number {
  const position = primitive.getAttribute('POSITION');
  if (!position || triangleCount(primitive) === 0) return 0;
  const count = position.getCount();
  const places = elements(position);
  const isNowhere = (vertex: number): boolean =>
    vertex >= count ||
    !Number.isFinite(
      (places[vertex * 3] ?? NaN) + (places[vertex * 3 + 1] ?? NaN) + (places[vertex * 3 + 2] ?? NaN),
    );
  const corners = triangleIndices(primitive);
  const kept: number[] = [];
  let dropped = 0;
  for (let at = 0; at < corners.length; at += 3) {
    const triangle = [corners[at] ?? 0, corners[at + 1] ?? 0, corners[at + 2] ?? 0];
    if (triangle.some(isNowhere)) dropped++;
    else kept.push(...triangle);
  }
  if (dropped > 0)
    primitive
      .setMode(triangleMode)
      .setIndices(document.createAccessor().setType('SCALAR').setArray(new Uint32Array(kept)));
  for (let at = 0; at < places.length; at++)
    if (!Number.isFinite(places[at])) {
      // What nothing shows any more.
      position.setArray(places.map((value) => (Number.isFinite(value) ? value : 0))).setNormalized(false);
      break;
    }
  return dropped;
}

/** Normals without a direction take that of the triangles around. @returns how many were changed */
function mendNormals(primitive: Primitive, accessor: Accessor): number {
  const normals = elements(accessor);
  let around: Float32Array | null = null;
  let changed = 0;
  for (let at = 0; at < normals.length; at += 3) {
    let [x = 0, y = 0, z = 0] = [normals[at], normals[at + 1], normals[at + 2]];
    let length = Math.hypot(x, y, z);
    if (Math.abs(length - 1) <= unitTolerance) continue;
    changed++;
    if (!(length > 1e-6)) {
      around ??= normalsAround(placesOf(primitive), triangleIndices(primitive));
      [x, y, z] = [around[at] ?? 0, around[at + 1] ?? 0, around[at + 2] ?? 0];
      length = Math.hypot(x, y, z);
      if (!(length > 0)) [x, y, z, length] = [0, 1, 0, 1];
    }
    normals.set([x / length, y / length, z / length], at);
  }
  if (changed > 0) accessor.setArray(normals).setNormalized(false);
  return changed;
}

function placesOf(primitive: Primitive): Float32Array {
  const position = primitive.getAttribute('POSITION');
  return position ? elements(position) : new Float32Array(0);
}

/**
 * Weights of each vertex add up to one, each bone is there once, and a bone that moves nothing is the first one (glTF 2.0, 3.7.3.3).
 * @returns 1 where what was there was no rounding
 */
function mendWeights(primitive: Primitive): number {
  const sets = primitive
    .listSemantics()
    .filter((name) => name.startsWith('WEIGHTS_'))
    .flatMap((name) => {
      const weights = primitive.getAttribute(name);
      const joints = primitive.getAttribute(name.replace('WEIGHTS', 'JOINTS'));
      return weights && joints ? [{ weights, joints }] : [];
    });
  const values = sets.map(({ weights }) => elements(weights).slice());
  const bones = sets.map(({ joints }) => numbersOf(joints).slice());
  // Of floats, what rounding leaves is taken off without a word.
  const isFloat = sets.every(({ weights }) => weights.getArray() instanceof Float32Array);
  const tolerance = isFloat ? roundingTolerance : weightTolerance;
  let [most, isBound, isMoved] = [0, false, false];
  for (let at = 0; at < (values[0]?.length ?? 0); at += 4) {
    const known = new Map<number, { set: number; slot: number }>();
    let sum = 0;
    values.forEach((own, set) => {
      for (let slot = at; slot < at + 4; slot++) {
        const weight = own[slot] ?? 0;
        const bone = bones[set]?.[slot] ?? 0;
        const before = known.get(bone);
        if (weight > 0 && before) {
          const first = values[before.set];
          if (first) first[before.slot] = (first[before.slot] ?? 0) + weight;
          own[slot] = 0;
          isMoved = true;
        } else if (weight > 0) known.set(bone, { set, slot });
        else if (weight !== 0) {
          own[slot] = 0;
          isMoved = true;
        }
        sum += Math.max(0, weight) || 0;
      }
    });
    most = Math.max(most, Math.abs(sum - 1));
    values.forEach((own, set) => {
      for (let slot = at; slot < at + 4; slot++) {
        if (sum > 0 && Math.abs(sum - 1) > tolerance) {
          own[slot] = (own[slot] ?? 0) / sum;
          isMoved = true;
        }
        const ofSet = bones[set];
        if (ofSet && own[slot] === 0 && ofSet[slot] !== 0) {
          ofSet[slot] = 0;
          isBound = true;
        }
      }
    });
  }
  sets.forEach(({ weights, joints }, set) => {
    if (isMoved) weights.setArray(values[set] ?? null).setNormalized(false);
    if (isBound) joints.setArray(bones[set] ?? null);
  });
  return most > weightTolerance ? 1 : 0;
}
