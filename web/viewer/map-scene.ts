import {
  BoxGeometry,
  type BufferGeometry,
  type Material,
  Group,
  InstancedMesh,
  Matrix4,
  Mesh,
  MeshStandardMaterial,
  Object3D,
  Quaternion,
  SkinnedMesh,
  Vector3,
} from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import type { Placement } from '../../contract/facts.ts';

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

/**
 * The models of a map where they stand. Instances of one model share it: one draw for each of its parts, however
 * often it is placed.
 * @param addressOf where a model's file is loaded from; null where the build lacks it, which gets a box
 */
export async function placeModels(
  placements: readonly Placement[],
  addressOf: (model: string) => string | null,
  colour: string,
  onProgress: (done: number, total: number) => void,
): Promise<{ scene: Group; failures: string[] }> {
  const scene = new Group();
  const failures: string[] = [];
  const byModel = Map.groupBy(placements, ({ model }) => model);
  const loader = new GLTFLoader();
  let done = 0;
  for (const [model, instances] of byModel) {
    const address = addressOf(model);
    try {
      if (address === null) scene.add(boxes(instances, colour));
      else scene.add(...instancesOf((await loader.loadAsync(address)).scene, instances));
    } catch (error) {
      failures.push(`${model}: ${error instanceof Error ? error.message : String(error)}`);
      scene.add(boxes(instances, colour));
    }
    onProgress(++done, byModel.size);
  }
  return { scene, failures };
}

type Drawn = Mesh<BufferGeometry, Material | Material[]>;

function instancesOf(model: Object3D, placements: readonly Placement[]): Object3D[] {
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
