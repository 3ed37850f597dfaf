import { nodeName } from './node-name.ts';
import { Bone, Box3, BufferGeometry, InstancedMesh, Mesh, SkinnedMesh, Vector3, type Object3D } from 'three';

/** Whatever has a shape: meshes, points, lines. */
export type Drawn = Object3D & { geometry: BufferGeometry };

export function drawnIn(model: Object3D): Drawn[] {
  const found: Drawn[] = [];
  model.traverse((object) => {
    if ('geometry' in object && object.geometry instanceof BufferGeometry) found.push(object as Drawn);
  });
  return found;
}

/** Every vertex of small skinned shapes is looked at, so that they are where their bones are; others go by their own box. */
const mostExact = 200_000;

/** Where a thing stands; of instances, where all of them do. */
export function boundsOf(drawn: Drawn): Box3 {
  drawn.updateWorldMatrix(true, false);
  const { geometry } = drawn;
  const position = geometry.getAttribute('position') as ReturnType<typeof geometry.getAttribute> | undefined;
  if (drawn instanceof SkinnedMesh && position && position.count <= mostExact) {
    const found = new Box3();
    const corner = new Vector3();
    for (let at = 0; at < position.count; at++)
      found.expandByPoint(drawn.getVertexPosition(at, corner).applyMatrix4(drawn.matrixWorld));
    return found;
  }
  if (drawn instanceof InstancedMesh) {
    drawn.computeBoundingBox();
    return (drawn.boundingBox ?? new Box3()).clone().applyMatrix4(drawn.matrixWorld);
  }
  if (!geometry.boundingBox) geometry.computeBoundingBox();
  return (geometry.boundingBox ?? new Box3()).clone().applyMatrix4(drawn.matrixWorld);
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

/** Names of nodes that carry nothing and have no shape. */
export function locatorsOf(model: Object3D): string[] {
  const names = new Set<string>();
  model.traverse((object) => {
    const isPlain = object.type === 'Object3D' || object.type === 'Group';
    if (isPlain && object.children.length === 0 && nodeName(object) !== '') names.add(nodeName(object));
  });
  return [...names].sort();
}
