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
export function meshesOf(model: Object3D): Mesh<BufferGeometry>[] {
  const meshes: Mesh<BufferGeometry>[] = [];
  model.traverse((object) => {
    if (object instanceof Mesh) meshes.push(object as Mesh<BufferGeometry>);
  });
  return meshes;
}

/** All triangles of a model where they stand at rest. */
export function shapeOf(model: Object3D): Shape {
  model.updateMatrixWorld(true);
  const positions: number[] = [];
  const indices: number[] = [];
  const vertex = new Vector3();
  for (const mesh of meshesOf(model)) {
    const { geometry } = mesh;
    const first = positions.length / 3;
    const count = geometry.getAttribute('position').count;
    for (let at = 0; at < count; at++) {
      mesh.getVertexPosition(at, vertex).applyMatrix4(mesh.matrixWorld);
      positions.push(vertex.x, vertex.y, vertex.z);
    }
    const index = geometry.getIndex();
    for (let corner = 0; corner < (index?.count ?? count); corner++) indices.push(first + (index?.getX(corner) ?? corner));
  }
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
} // prettier-ignore

/** Gives each vertex its colour, in place of the materials. */
export function paint(model: Object3D, colours: Float32Array): void {
  let at = 0;
  for (const mesh of meshesOf(model)) {
    const count = mesh.geometry.getAttribute('position').count;
    mesh.geometry.setAttribute('color', new BufferAttribute(colours.slice(at, at + count * 3), 3));
    mesh.material = new MeshStandardMaterial({ vertexColors: true, roughness: 1, side: 2 });
    at += count * 3;
  }
}

/** Makes a model pale and see-through, to be laid over another one. */
export function makeGhost(model: Object3D, colour: string): void {
  for (const mesh of meshesOf(model)) {
    mesh.material = new MeshStandardMaterial({ color: colour, roughness: 1, transparent: true, opacity: 0.42, depthWrite: false, side: 2 });
    if (mesh instanceof SkinnedMesh) mesh.frustumCulled = false;
  }
} // prettier-ignore
