import {
  BoxGeometry,
  type BufferGeometry,
  type Material,
  InstancedMesh,
  Matrix4,
  Mesh,
  MeshStandardMaterial,
  Object3D,
  Quaternion,
  SkinnedMesh,
  Vector3,
} from 'three';
import type { Placement } from '../../../contract/facts.ts';

/** Where a placement stands, as a matrix. */
export function matrixOf({ position, rotation, scale }: Placement): Matrix4 {
  return new Matrix4().compose(
    new Vector3(...position),
    new Quaternion(...rotation).normalize(),
    new Vector3(...scale),
  );
}

/** Boxes of a metre that stand in for models: one draw for all. */
export function boxes(placements: readonly Placement[], colour: string): Object3D {
  const mesh = new InstancedMesh(
    new BoxGeometry(1, 1, 1).translate(0, 0.5, 0),
    new MeshStandardMaterial({ color: colour, roughness: 1 }),
    placements.length,
  );
  placements.forEach((placement, index) => mesh.setMatrixAt(index, matrixOf(placement)));
  return mesh;
}

type Drawn = Mesh<BufferGeometry, Material | Material[]>;

/** The parts of a model, each drawn once for all its placements. `userData.within` says where in the model one stands. */
export function instancesOf(model: Object3D, placements: readonly Placement[]): InstancedMesh[] {
  model.updateMatrixWorld(true);
  const meshes: Drawn[] = [];
  model.traverse((object) => {
    if (object instanceof Mesh) meshes.push(object as Drawn);
  });
  return meshes.map((mesh) => {
    const isSkinned = mesh instanceof SkinnedMesh;
    const instanced = new InstancedMesh(
      isSkinned ? posed(mesh as SkinnedMesh) : mesh.geometry,
      mesh.material,
      placements.length,
    );
    placements.forEach((placement, index) => {
      const matrix = matrixOf(placement);
      instanced.setMatrixAt(index, isSkinned ? matrix : matrix.multiply(mesh.matrixWorld));
    });
    instanced.name = mesh.name;
    if (!isSkinned) instanced.userData.within = mesh.matrixWorld.clone();
    return instanced;
  });
}

/** A skinned mesh as its bones hold it at rest, in the model's own space: instances have no bones of their own. */
function posed(mesh: SkinnedMesh): BufferGeometry {
  const geometry = mesh.geometry.clone();
  const positions = geometry.getAttribute('position');
  const vertex = new Vector3();
  for (let index = 0; index < positions.count; index++) {
    mesh.getVertexPosition(index, vertex).applyMatrix4(mesh.matrixWorld);
    positions.setXYZ(index, vertex.x, vertex.y, vertex.z);
  }
  geometry.deleteAttribute('skinIndex');
  geometry.deleteAttribute('skinWeight');
  geometry.computeVertexNormals();
  return geometry;
}
