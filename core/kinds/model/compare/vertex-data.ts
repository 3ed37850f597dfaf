import type { Node, Primitive } from '@gltf-transform/core';
import { elements, type TriangleBatch } from '../triangles.ts';

/** What all vertices of a surface have besides their place, one after another; NaN where a part has none of it. */
export interface VertexData {
  size: number;
  values: Float32Array;
}

/**
 * By what they are called in words: UV sets, normals (of unit length, in world space), vertex colours (0 to 1), weights
 * (as mixed in `weightsOf`) and morph targets (metres of the part's own space).
 */
export function vertexDataOf(batches: readonly TriangleBatch[]): Map<string, VertexData> {
  const vertices = batches.reduce((sum, { positions }) => sum + positions.length / 3, 0);
  const all = new Map<string, VertexData>();
  let first = 0;
  for (const batch of batches) {
    const count = batch.positions.length / 3;
    for (const [name, size, values] of dataOf(batch)) {
      const data = all.get(name) ?? { size, values: new Float32Array(vertices * size).fill(NaN) };
      all.set(name, data);
      // A damaged file may have more of it than places.
      if (data.size === size) data.values.set(values.subarray(0, count * size), first * size);
    }
    first += count;
  }
  return all;
}

function* dataOf({
  node,
  primitive,
}: TriangleBatch): Generator<[name: string, size: number, values: Float32Array]> {
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
  const weights = weightsOf(node, primitive);
  if (weights) yield ['weights of bones', weightParts, weights];
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
  const c = [0, 1, 2].map((row) => [cofactor(row, 0), cofactor(row, 1), cofactor(row, 2)] as const);
  const result = new Float32Array(normals.length);
  for (let at = 0; at < normals.length; at += 3) {
    const [x, y, z] = c.map(
      (row) =>
        row[0] * (normals[at] ?? 0) + row[1] * (normals[at + 1] ?? 0) + row[2] * (normals[at + 2] ?? 0),
    ) as [number, number, number];
    const length = Math.hypot(x, y, z) || 1;
    result.set([x / length, y / length, z / length], at);
  }
  return result;
}

const weightParts = 4;

/**
 * Which bones move each vertex and how much, as one point: every bone has a fixed place by its name, and the weights mix
 * these places. The order of joints, and whether four or eight of them are written, says nothing.
 */
function weightsOf(node: Node, primitive: Primitive): Float32Array | null {
  const joints = node.getSkin()?.listJoints();
  if (!joints) return null;
  const places = joints.map((joint, at) => placeOfName(joint.getName() || `joint ${at}`));
  const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
  const result = new Float32Array(count * weightParts);
  let isThere = false;
  for (let set = 0; ; set++) {
    const [indices, weights] = [
      primitive.getAttribute(`JOINTS_${set}`),
      primitive.getAttribute(`WEIGHTS_${set}`),
    ];
    if (!indices || !weights) return isThere ? result : null;
    isThere = true;
    const [index, weight]: [number[], number[]] = [[], []];
    for (let vertex = 0; vertex < count; vertex++) {
      indices.getElement(vertex, index);
      weights.getElement(vertex, weight);
      for (let at = 0; at < 4; at++) {
        const place = places[index[at] ?? 0];
        for (let part = 0; part < weightParts; part++)
          result[vertex * weightParts + part] =
            (result[vertex * weightParts + part] ?? 0) + (weight[at] ?? 0) * (place?.[part] ?? 0);
      }
    }
  }
}

/** A fixed point of the unit cube of four dimensions for each name (FNV-1a, stirred). */
function placeOfName(name: string): number[] {
  let hash = 0x811c9dc5;
  for (let at = 0; at < name.length; at++) hash = Math.imul(hash ^ name.charCodeAt(at), 0x01000193);
  return Array.from({ length: weightParts }, () => {
    hash = Math.imul(hash ^ (hash >>> 15), 0x85ebca6b);
    hash ^= hash >>> 13;
    return (hash >>> 0) / 2 ** 32;
  });
}
