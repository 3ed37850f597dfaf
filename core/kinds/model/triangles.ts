import {
  MathUtils,
  Primitive,
  type Accessor,
  type Document,
  type Material,
  type Node,
  type mat4,
  type vec3,
  type vec4,
} from '@gltf-transform/core';
import { mat4 as matrices } from 'gl-matrix';

export interface TriangleBatch {
  /** xyz triples in metres, world space. */
  positions: Float32Array;
  /** uv pairs, null where there are none. */
  uvs: Float32Array | null;
  /** Three to a triangle. */
  indices: Uint32Array;
  material: Material | null;
  /** What it is made of, and where that hangs. */
  primitive: Primitive;
  node: Node;
  /** Where an instance stands in the node's own space; null of what is there once. */
  instance: mat4 | null;
}

/** How many triangles a primitive of any mode draws (glTF 2.0, section 3.7.2.1). */
export function triangleCount(primitive: Primitive): number {
  const count = primitive.getIndices()?.getCount() ?? primitive.getAttribute('POSITION')?.getCount() ?? 0;
  switch (primitive.getMode()) {
    case Primitive.Mode.TRIANGLES:
      return Math.floor(count / 3);
    case Primitive.Mode.TRIANGLE_STRIP:
    case Primitive.Mode.TRIANGLE_FAN:
      return Math.max(0, count - 2);
    default:
      return 0;
  }
}

/** Every triangle of the default scene where it stands, skinned meshes in the pose of their nodes. */
export function trianglesOf(document: Document): TriangleBatch[] {
  const batches: TriangleBatch[] = [];
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  scene?.traverse((node) => {
    const mesh = node.getMesh();
    if (!mesh) return;
    for (const primitive of mesh.listPrimitives()) {
      if (triangleCount(primitive) === 0) continue;
      const positions = worldPositions(node, primitive);
      const uv = primitive.getAttribute('TEXCOORD_0');
      if (!positions) continue;
      const batch = {
        positions,
        uvs: uv ? elements(uv) : null,
        indices: triangleIndices(primitive),
        material: primitive.getMaterial(),
        primitive,
        node,
        instance: null,
      };
      batches.push(
        ...(instancesOf(node)?.map((matrix) => ({
          ...batch,
          positions: moved(node, primitive, matrix),
          instance: matrix,
        })) ?? [batch]),
      );
    }
  });
  return batches;
}

/** More would take longer to draw than anyone waits for, and be too small to see. */
const mostInstances = 2000;

/** Places of a node's instances in the node's own space (EXT_mesh_gpu_instancing); null where it has none. */
export function instancesOf(node: Node): mat4[] | null {
  const instanced = node.getExtension('EXT_mesh_gpu_instancing') as {
    getAttribute(name: string): Accessor | null;
  } | null;
  if (!instanced) return null;
  const [translations, rotations, scales] = ['TRANSLATION', 'ROTATION', 'SCALE'].map((name) =>
    instanced.getAttribute(name),
  );
  const count = Math.min(
    mostInstances,
    translations?.getCount() ?? rotations?.getCount() ?? scales?.getCount() ?? 0,
  );
  return Array.from({ length: count }, (_, at) =>
    MathUtils.compose(
      (translations?.getElement(at, []) ?? [0, 0, 0]) as vec3,
      (rotations?.getElement(at, []) ?? [0, 0, 0, 1]) as vec4,
      (scales?.getElement(at, []) ?? [1, 1, 1]) as vec3,
      [] as unknown as mat4,
    ),
  );
}

function moved(node: Node, primitive: Primitive, matrix: mat4): Float32Array {
  const accessor = primitive.getAttribute('POSITION');
  const positions = accessor ? elements(accessor) : new Float32Array(0);
  const result = new Float32Array(positions.length);
  const whole = multiply(node.getWorldMatrix(), matrix);
  for (let vertex = 0; vertex < positions.length / 3; vertex++)
    addTransformed(whole, 1, positions, result, vertex);
  return result;
}

/** xyz triples of a primitive's vertices where they stand, skinned in the pose of the nodes. */
export function worldPositions(node: Node, primitive: Primitive): Float32Array | null {
  const accessor = primitive.getAttribute('POSITION');
  if (!accessor) return null;
  const positions = elements(accessor);
  const joints = primitive.getAttribute('JOINTS_0');
  const weights = primitive.getAttribute('WEIGHTS_0');
  const skin = node.getSkin();
  const world = node.getWorldMatrix();
  const result = new Float32Array(positions.length);
  const boneMatrices =
    skin && joints && weights ? skinMatrices(skin.listJoints(), skin.getInverseBindMatrices()) : null;
  const joint: number[] = [];
  const weight: number[] = [];
  for (let vertex = 0; vertex < positions.length / 3; vertex++) {
    if (!boneMatrices || !joints || !weights) {
      addTransformed(world, 1, positions, result, vertex);
      continue;
    }
    joints.getElement(vertex, joint);
    weights.getElement(vertex, weight);
    for (let k = 0; k < 4; k++) {
      const matrix = boneMatrices[joint[k] ?? 0];
      if (matrix && (weight[k] ?? 0) > 0) addTransformed(matrix, weight[k] ?? 0, positions, result, vertex);
    }
  }
  return result;
}

function skinMatrices(joints: Node[], inverseBind: Accessor | null): mat4[] {
  return joints.map((joint, index) => {
    const world = joint.getWorldMatrix();
    return inverseBind ? multiply(world, inverseBind.getElement(index, [] as unknown as mat4)) : world;
  });
}

/** The product of two matrices in column-major order, in doubles. */
export function multiply(a: mat4, b: mat4): mat4 {
  return matrices.multiply([], a, b) as mat4;
}

function addTransformed(m: mat4, weight: number, from: Float32Array, to: Float32Array, vertex: number): void {
  const at = vertex * 3;
  const x = from[at] ?? 0;
  const y = from[at + 1] ?? 0;
  const z = from[at + 2] ?? 0;
  for (let row = 0; row < 3; row++) {
    const value = (m[row] ?? 0) * x + (m[row + 4] ?? 0) * y + (m[row + 8] ?? 0) * z + (m[row + 12] ?? 0);
    to[at + row] = (to[at + row] ?? 0) + weight * value;
  }
}

/** Values of an accessor as floats, normalised integers scaled: `getElement` does both. */
export function elements(accessor: Accessor): Float32Array<ArrayBuffer> {
  const array = accessor.getArray() as unknown;
  if (array instanceof Float32Array) return new Float32Array(array);
  const size = accessor.getElementSize();
  const result = new Float32Array(accessor.getCount() * size);
  const element: number[] = [];
  for (let at = 0; at < accessor.getCount(); at++) {
    accessor.getElement(at, element);
    for (let part = 0; part < size; part++) result[at * size + part] = element[part] ?? 0;
  }
  return result;
}

/** Whole numbers of an accessor, as they lie there. */
export function numbersOf(accessor: Accessor): Uint8Array | Uint16Array | Uint32Array {
  const array: unknown = accessor.getArray();
  if (array instanceof Uint8Array || array instanceof Uint16Array || array instanceof Uint32Array)
    return array;
  return new Uint32Array((array as ArrayLike<number> | null) ?? []);
}

/** Corners of all triangles that a primitive draws, three to each. */
export function triangleIndices(primitive: Primitive): Uint32Array {
  const indices = primitive.getIndices();
  const count = triangleCount(primitive);
  const mode = primitive.getMode();
  const numbers = indices ? numbersOf(indices) : null;
  // Most are lists of triangles: these are what is wanted.
  if (numbers && mode === Primitive.Mode.TRIANGLES) return new Uint32Array(numbers.subarray(0, count * 3));
  const result = new Uint32Array(count * 3);
  for (let triangle = 0; triangle < count; triangle++) {
    const corners =
      mode === Primitive.Mode.TRIANGLES
        ? [triangle * 3, triangle * 3 + 1, triangle * 3 + 2]
        : mode === Primitive.Mode.TRIANGLE_FAN
          ? [triangle + 1, triangle + 2, 0]
          : [triangle, triangle + 1 + (triangle % 2), triangle + 2 - (triangle % 2)];
    corners.forEach((corner, k) => (result[triangle * 3 + k] = numbers ? (numbers[corner] ?? 0) : corner));
  }
  return result;
}
