import type { Document, Primitive, mat4 } from '@gltf-transform/core';
import type { Bounds } from '../../../contract/facts.ts';
import { elements, numbersOf } from './triangles.ts';

/**
 * Bounds of what the default scene draws, in metres, each mesh where its node stands; null where there is nothing. A mesh with
 * a corner that is nowhere counts for nothing.
 */
export function boundsOf(document: Document): Bounds | null {
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  const whole = emptyBounds();
  scene?.traverse((node) => {
    const mesh = node.getMesh();
    if (!mesh) return;
    const bounds = emptyBounds();
    const matrix = node.getWorldMatrix();
    for (const primitive of mesh.listPrimitives()) addPrimitive(bounds, primitive, matrix);
    if (![...bounds.min, ...bounds.max].every(Number.isFinite)) return;
    for (const axis of [0, 1, 2] as const) {
      whole.min[axis] = Math.min(whole.min[axis], bounds.min[axis]);
      whole.max[axis] = Math.max(whole.max[axis], bounds.max[axis]);
    }
  });
  return [...whole.min, ...whole.max].every(Number.isFinite) ? whole : null;
}

function emptyBounds(): Bounds {
  return { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
}

/** Of the vertices that are drawn, each once. */
function addPrimitive({ min, max }: Bounds, primitive: Primitive, m: mat4): void {
  const accessor = primitive.getAttribute('POSITION');
  if (!accessor) return;
  const array = accessor.getArray() as unknown;
  const positions = array instanceof Float32Array ? array : elements(accessor);
  const accessorOfIndices = primitive.getIndices();
  const indices = accessorOfIndices && numbersOf(accessorOfIndices);
  const count = accessor.getCount();
  const isDrawn = new Uint8Array(count);
  if (indices) for (let at = 0; at < indices.length; at++) isDrawn[indices[at] ?? 0] = 1;
  else isDrawn.fill(1);
  for (let vertex = 0; vertex < count; vertex++) {
    if (isDrawn[vertex] === 0) continue;
    const x = positions[vertex * 3] ?? 0;
    const y = positions[vertex * 3 + 1] ?? 0;
    const z = positions[vertex * 3 + 2] ?? 0;
    for (let axis = 0; axis < 3; axis++) {
      const value =
        (m[axis] ?? 0) * x + (m[axis + 4] ?? 0) * y + (m[axis + 8] ?? 0) * z + (m[axis + 12] ?? 0);
      // What is not a number stays, and tells that the mesh is nowhere.
      min[axis] = Math.min(min[axis] ?? 0, value);
      max[axis] = Math.max(max[axis] ?? 0, value);
    }
  }
}
