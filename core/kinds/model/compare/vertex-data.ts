import type { Accessor, Node, Primitive } from '@gltf-transform/core';
import { elements, type TriangleBatch } from '../triangles.ts';

/** What all vertices of a surface have besides their place, one after another; NaN where a part has none of it. */
export interface VertexData {
  size: number;
  values: Float32Array;
  /** Of weights: pairs of a bone's number and its weight, not values side by side. */
  isWeights?: boolean;
}

/** A number for each bone, the same in both models; from 1 on. */
export type BoneNumber = (name: string) => number;

/** Numbers bones by their names. @param oldNameOf what a bone of the newer model was called in the older one */
export function boneNumbers(oldNameOf: (name: string) => string): { old: BoneNumber; now: BoneNumber } {
  const numbers = new Map<string, number>();
  const number: BoneNumber = (name) => {
    const found = numbers.get(name) ?? numbers.size + 1;
    numbers.set(name, found);
    return found;
  };
  return { old: number, now: (name) => number(oldNameOf(name)) };
}

/**
 * By what they are called in words: UV sets, normals (of unit length, in world space), vertex colours (0 to 1), weights
 * of bones (of each vertex up to eight, as pairs) and morph targets (metres of the part's own space).
 */
export function vertexDataOf(
  batches: readonly TriangleBatch[],
  boneNumber: BoneNumber,
): Map<string, VertexData> {
  const vertices = batches.reduce((sum, { positions }) => sum + positions.length / 3, 0);
  const all = new Map<string, VertexData>();
  let first = 0;
  for (const batch of batches) {
    const count = batch.positions.length / 3;
    for (const [name, size, values] of dataOf(batch, boneNumber)) {
      const data = all.get(name) ?? {
        size,
        values: new Float32Array(vertices * size).fill(NaN),
        isWeights: name === weightsName,
      };
      all.set(name, data);
      // A damaged file may have more of it than places.
      if (data.size === size) data.values.set(values.subarray(0, count * size), first * size);
    }
    first += count;
  }
  return all;
}

function* dataOf(
  { node, primitive }: TriangleBatch,
  boneNumber: BoneNumber,
): Generator<[name: string, size: number, values: Float32Array]> {
  for (const semantic of primitive.listSemantics()) {
    const accessor = primitive.getAttribute(semantic);
    if (!accessor) continue;
    const number = Number(semantic.split('_')[1] ?? 0);
    if (semantic.startsWith('TEXCOORD_'))
      yield [number === 0 ? 'UVs' : `UV set ${number + 1}`, 2, elements(accessor)];
    else if (semantic === 'NORMAL') yield ['normals', 3, worldNormals(node, elements(accessor))];
    else if (semantic.startsWith('COLOR_'))
      yield [
        number === 0 ? 'vertex colours' : `vertex colours ${number + 1}`,
        4,
        opaque(elements(accessor), accessor.getElementSize()),
      ];
  }
  const weights = weightsOf(node, primitive, boneNumber);
  if (weights) yield [weightsName, bonesOfVertex * 2, weights];
  let at = 0;
  for (const target of primitive.listTargets()) {
    const places = target.getAttribute('POSITION');
    at++;
    if (places) yield [`morph target ${target.getName() || at}`, 3, elements(places)];
  }
}

/** Colours without alpha are opaque. */
function opaque(values: Float32Array, size: number): Float32Array {
  if (size === 4) return values;
  const result = new Float32Array((values.length / 3) * 4).fill(1);
  for (let at = 0; at < values.length; at++) result[Math.floor(at / 3) * 4 + (at % 3)] = values[at] ?? 0;
  return result;
}

/** Turned by the node's matrix of cofactors, which keeps them at right angles to the surface whatever the scale. */
function worldNormals(node: Node, normals: Float32Array): Float32Array {
  const m = node.getWorldMatrix();
  const cofactor = (row: number, column: number): number => {
    const at = (r: number, c: number): number => m[((c + 3) % 3) * 4 + ((r + 3) % 3)] ?? 0;
    return (
      at(row + 1, column + 1) * at(row + 2, column + 2) - at(row + 1, column + 2) * at(row + 2, column + 1)
    );
  };
  const rowOf = (row: number) => [cofactor(row, 0), cofactor(row, 1), cofactor(row, 2)] as const;
  const [first, second, third] = [rowOf(0), rowOf(1), rowOf(2)];
  const result = new Float32Array(normals.length);
  for (let at = 0; at < normals.length; at += 3) {
    const [nx = 0, ny = 0, nz = 0] = [normals[at], normals[at + 1], normals[at + 2]];
    const x = first[0] * nx + first[1] * ny + first[2] * nz;
    const y = second[0] * nx + second[1] * ny + second[2] * nz;
    const z = third[0] * nx + third[1] * ny + third[2] * nz;
    const length = Math.hypot(x, y, z) || 1;
    result[at] = x / length;
    result[at + 1] = y / length;
    result[at + 2] = z / length;
  }
  return result;
}

const weightsName = 'weights of bones';
/** Of more the greatest; what is left of the others moves nothing that is seen (common practice: four or eight). */
const bonesOfVertex = 8;

/**
 * Which bones move each vertex and how much, as pairs of a bone's number and its weight, the greatest first. The order of joints, and
 * whether four or eight of them are written, says nothing.
 */
function weightsOf(node: Node, primitive: Primitive, boneNumber: BoneNumber): Float32Array | null {
  const joints = node.getSkin()?.listJoints();
  if (!joints) return null;
  const numbers = joints.map((joint, at) => boneNumber(joint.getName() || `joint ${at}`));
  const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
  const sets: (readonly [Accessor, Accessor])[] = [];
  for (;;) {
    const indices = primitive.getAttribute(`JOINTS_${sets.length}`);
    const weights = primitive.getAttribute(`WEIGHTS_${sets.length}`);
    if (!indices || !weights) break;
    sets.push([indices, weights]);
  }
  if (sets.length === 0) return null;
  const result = new Float32Array(count * bonesOfVertex * 2);
  const [index, weight]: [number[], number[]] = [[], []];
  const ofBone = new Map<number, number>();
  for (let vertex = 0; vertex < count; vertex++) {
    ofBone.clear();
    for (const [indices, weights] of sets) {
      if (vertex >= indices.getCount() || vertex >= weights.getCount()) continue;
      indices.getElement(vertex, index);
      weights.getElement(vertex, weight);
      for (let at = 0; at < 4; at++) {
        const bone = numbers[index[at] ?? 0];
        const amount = weight[at] ?? 0;
        if (bone !== undefined && amount > 0) ofBone.set(bone, (ofBone.get(bone) ?? 0) + amount);
      }
    }
    [...ofBone]
      .sort((a, b) => b[1] - a[1])
      .slice(0, bonesOfVertex)
      .forEach((pair, at) => result.set(pair, (vertex * bonesOfVertex + at) * 2));
  }
  return result;
}
