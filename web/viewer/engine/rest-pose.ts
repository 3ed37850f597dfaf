import { Bone, Box3, Vector3, type Mesh, type Object3D } from 'three';

/** Every vertex of small shapes is looked at, so that skinned ones are where they are; large ones go by their own box. */
const mostExact = 200_000;

export function boundsOf(mesh: Mesh): Box3 {
  mesh.updateWorldMatrix(true, false);
  const { geometry } = mesh;
  const isExact = 'isSkinnedMesh' in mesh && geometry.getAttribute('position').count <= mostExact;
  if (!geometry.boundingBox) geometry.computeBoundingBox();
  if (!isExact) return (geometry.boundingBox ?? new Box3()).clone().applyMatrix4(mesh.matrixWorld);
  const found = new Box3();
  const corner = new Vector3();
  for (let at = 0; at < geometry.getAttribute('position').count; at++)
    found.expandByPoint(mesh.getVertexPosition(at, corner).applyMatrix4(mesh.matrixWorld));
  return found;
}

/** Bones that meshes follow, in the order of the tree; of a model that has none: all that are marked as such. */
export function bonesOf(model: Object3D, meshes: readonly Mesh[]): Bone[] {
  const followed = new Set<Object3D>();
  for (const mesh of meshes)
    if ('skeleton' in mesh) for (const bone of (mesh.skeleton as { bones: Bone[] }).bones) followed.add(bone);
  const bones: Bone[] = [];
  model.traverse((object) => {
    const isBone = object instanceof Bone && (followed.size === 0 || followed.has(object));
    if (isBone) bones.push(object as Bone);
  });
  return bones;
}
