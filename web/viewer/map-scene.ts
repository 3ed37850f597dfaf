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

function instancesOf(model: Object3D, placements: readonly Placement[]): Object3D[] {
  model.updateMatrixWorld(true);
  const meshes: Mesh[] = [];
  model.traverse((object) => {
    if (object instanceof Mesh) meshes.push(object);
  });
  return meshes.map((mesh) => {
    const instanced = new InstancedMesh(
      mesh.geometry as BufferGeometry,
      mesh.material as Material,
      placements.length,
    );
    // A skinned mesh stands where its bones are, whatever its own node says (glTF 2.0, section 3.7.3.3).
    const own = mesh instanceof SkinnedMesh ? new Matrix4() : mesh.matrixWorld;
    placements.forEach((placement, index) => instanced.setMatrixAt(index, matrixOf(placement).multiply(own)));
    instanced.name = mesh.name;
    return instanced;
  });
}
