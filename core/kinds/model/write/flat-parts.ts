import type { Accessor, Document, Material, Primitive } from '@gltf-transform/core';
import { elements, numbersOf, trianglesOf, type TriangleBatch } from '../triangles.ts';
import { placedPoints, turnedDirections, type Similarity } from './units-and-axes.ts';

/** A part of a model where it stands, for formats that have triangles and no more. */
export interface FlatPart {
  name: string;
  material: Material | null;
  /** xyz triples in the unit and with the axis that were asked for. */
  positions: Float32Array;
  normals: Float32Array | null;
  /** uv pairs, v downwards as glTF has it. */
  uvs: Float32Array | null;
  /** RGBA, linear, 0 to 1. */
  colours: Float32Array | null;
  /** Three to a triangle, anticlockwise seen from outside. */
  indices: Uint32Array;
}

/** All triangles of the default scene, a part for each place where a primitive stands. */
export function flatParts(document: Document, map: Similarity): FlatPart[] {
  return trianglesOf(document).map((batch) => {
    const { primitive, node, material, positions, uvs } = batch;
    const isMirrored = determinant(standing(batch)) < 0;
    const normals = normalsOf(batch, isMirrored);
    return {
      name: node.getName() || node.getMesh()?.getName() || 'part',
      material,
      positions: placedPoints(positions, map),
      normals: normals && turnedDirections(normals, map),
      uvs,
      colours: coloursOf(primitive),
      indices: isMirrored ? reversed(batch.indices) : batch.indices,
    };
  });
}

/** Where the batch's own space stands. */
function standing({ node, instance }: TriangleBatch): Numbers {
  const world = node.getWorldMatrix();
  return instance ? product(world, instance) : world;
}

function determinant(m: Numbers): number {
  const [x, y, z] = cofactors(m);
  return (m[0] ?? 0) * (x ?? 0) + (m[1] ?? 0) * (y ?? 0) + (m[2] ?? 0) * (z ?? 0);
}

function reversed(indices: Uint32Array): Uint32Array {
  const result = indices.slice();
  for (let at = 0; at < result.length; at += 3) {
    result[at + 1] = indices[at + 2] ?? 0;
    result[at + 2] = indices[at + 1] ?? 0;
  }
  return result;
}

function coloursOf(primitive: Primitive): Float32Array | null {
  const accessor = primitive.getAttribute('COLOR_0');
  if (!accessor) return null;
  const values = elements(accessor);
  if (accessor.getElementSize() === 4) return values;
  const count = values.length / 3;
  const result = new Float32Array(count * 4);
  for (let vertex = 0; vertex < count; vertex++)
    result.set([...values.subarray(vertex * 3, vertex * 3 + 3), 1], vertex * 4);
  return result;
}

/**
 * Normals where they stand: of the node's matrix by its cofactors, which are its inverse transposed but for the length and, where it
 * mirrors, the sign; of a skinned vertex by the matrices of its bones.
 */
function normalsOf(batch: TriangleBatch, isMirrored: boolean): Float32Array | null {
  const { primitive, node, positions } = batch;
  const accessor = primitive.getAttribute('NORMAL');
  if (!accessor) return null;
  const own = elements(accessor);
  if (own.length !== positions.length) return null;
  const skin = node.getSkin();
  const [joints, weights] = [primitive.getAttribute('JOINTS_0'), primitive.getAttribute('WEIGHTS_0')];
  const result = new Float32Array(own.length);
  if (!skin || !joints || !weights) {
    const matrix = cofactors(standing(batch));
    for (let at = 0; at < own.length; at += 3) addTurned(matrix, 1, own, result, at);
  } else {
    const bones = skin.listJoints();
    const bind = skin.getInverseBindMatrices();
    const matrices = bones.map((bone, at) => cofactors(product(bone.getWorldMatrix(), bindOf(bind, at))));
    const [ofBones, ofWeights] = [numbersOf(joints), elements(weights)];
    const size = joints.getElementSize();
    for (let vertex = 0; vertex * 3 < own.length; vertex++)
      for (let slot = 0; slot < size; slot++) {
        const weight = ofWeights[vertex * size + slot] ?? 0;
        const matrix = matrices[ofBones[vertex * size + slot] ?? 0];
        if (matrix && weight > 0) addTurned(matrix, weight, own, result, vertex * 3);
      }
  }
  for (let at = 0; at < result.length; at += 3) {
    const length = Math.hypot(result[at] ?? 0, result[at + 1] ?? 0, result[at + 2] ?? 0) || 1;
    const sign = isMirrored ? -1 : 1;
    for (let axis = 0; axis < 3; axis++) result[at + axis] = ((result[at + axis] ?? 0) / length) * sign;
  }
  return result;
}

type Numbers = ArrayLike<number>;

function bindOf(bind: Accessor | null, at: number): Numbers {
  return bind ? bind.getElement(at, []) : [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
}

/** The upper three rows and columns of a product, column-major in rows of four. */
function product(a: Numbers, b: Numbers): number[] {
  const result = new Array<number>(16).fill(0);
  for (let column = 0; column < 3; column++)
    for (let row = 0; row < 3; row++)
      for (let k = 0; k < 3; k++)
        result[column * 4 + row] =
          (result[column * 4 + row] ?? 0) + (a[k * 4 + row] ?? 0) * (b[column * 4 + k] ?? 0);
  return result;
}

/** Nine cofactors of the upper three rows and columns, column-major. */
function cofactors(m: Numbers): number[] {
  const at = (row: number, column: number): number => m[(column % 3) * 4 + (row % 3)] ?? 0;
  const result: number[] = [];
  for (let column = 0; column < 3; column++)
    for (let row = 0; row < 3; row++)
      result.push(
        at(row + 1, column + 1) * at(row + 2, column + 2) - at(row + 1, column + 2) * at(row + 2, column + 1),
      );
  return result;
}

function addTurned(
  matrix: readonly number[],
  weight: number,
  from: Float32Array,
  to: Float32Array,
  at: number,
): void {
  for (let row = 0; row < 3; row++) {
    let value = 0;
    for (let column = 0; column < 3; column++)
      value += (matrix[column * 3 + row] ?? 0) * (from[at + column] ?? 0);
    to[at + row] = (to[at + row] ?? 0) + value * weight;
  }
}
