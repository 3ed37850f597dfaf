import {
  BufferAttribute,
  Mesh,
  MeshStandardMaterial,
  SkinnedMesh,
  Vector3,
  type BufferGeometry,
  type Object3D,
} from 'three';
import type { Shape } from './distance-worker.ts';

/** The meshes of a model, in the order in which their vertices are counted. */
function meshesOf(model: Object3D): Mesh<BufferGeometry>[] {
  const meshes: Mesh<BufferGeometry>[] = [];
  model.traverse((object) => {
    if (object instanceof Mesh) meshes.push(object as Mesh<BufferGeometry>);
  });
  return meshes;
}

function disposeMaterials({ material }: Mesh): void {
  for (const one of [material].flat()) one.dispose();
}

/** All triangles of a model where they stand at rest. */
export function shapeOf(model: Object3D): Shape {
  model.updateMatrixWorld(true);
  const meshes = meshesOf(model);
  const sizes = meshes.map(({ geometry }) => {
    const vertices = geometry.getAttribute('position').count;
    return { vertices, corners: geometry.getIndex()?.count ?? vertices };
  });
  const positions = new Float32Array(sizes.reduce((sum, { vertices }) => sum + vertices * 3, 0));
  const indices = new Uint32Array(sizes.reduce((sum, { corners }) => sum + corners, 0));
  const vertex = new Vector3();
  let [first, firstCorner] = [0, 0];
  for (const [number, mesh] of meshes.entries()) {
    const { vertices, corners } = sizes[number] ?? { vertices: 0, corners: 0 };
    for (let at = 0; at < vertices; at++)
      mesh
        .getVertexPosition(at, vertex)
        .applyMatrix4(mesh.matrixWorld)
        .toArray(positions, (first + at) * 3);
    const index = mesh.geometry.getIndex();
    for (let corner = 0; corner < corners; corner++)
      indices[firstCorner + corner] = first + (index?.getX(corner) ?? corner);
    first += vertices;
    firstCorner += corners;
  }
  return { positions, indices };
}

/** Gives each vertex its colour, in place of the materials. */
export function paint(model: Object3D, colours: Float32Array): void {
  let at = 0;
  for (const mesh of meshesOf(model)) {
    const count = mesh.geometry.getAttribute('position').count;
    mesh.geometry.setAttribute('color', new BufferAttribute(colours.slice(at, at + count * 3), 3));
    disposeMaterials(mesh);
    mesh.material = new MeshStandardMaterial({ vertexColors: true, roughness: 1, side: 2 });
    at += count * 3;
  }
}

/** Makes a model pale and see-through, to be laid over another one. */
export function makeGhost(model: Object3D, colour: string): void {
  for (const mesh of meshesOf(model)) {
    disposeMaterials(mesh);
    mesh.material = new MeshStandardMaterial({
      color: colour,
      roughness: 1,
      transparent: true,
      opacity: 0.42,
      depthWrite: false,
      side: 2,
    });
    if (mesh instanceof SkinnedMesh) mesh.frustumCulled = false;
  }
}
