import { Box3, BoxGeometry, type BufferGeometry, type InstancedMesh, Matrix4, Sphere, Vector3 } from 'three';
import { mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js';

/** Around all of a map: places with their radii. */
export function sphereAround(centres: Float32Array, radii: Float32Array): Sphere {
  const box = new Box3();
  const centre = new Vector3();
  for (let at = 0; at < radii.length; at++) box.expandByPoint(centre.fromArray(centres, at * 3));
  const around = box.isEmpty() ? new Sphere() : box.getBoundingSphere(new Sphere());
  around.radius += radii.reduce((most, radius) => Math.max(most, radius), 0);
  return around;
}

/** A cube of a metre of eight corners: tens of thousands are drawn, and its faces are shaded by themselves. */
export function plainCube(): BufferGeometry {
  const cube = new BoxGeometry(1, 1, 1);
  cube.deleteAttribute('normal');
  cube.deleteAttribute('uv');
  return mergeVertices(cube);
}

/**
 * Draws instances at some of the places.
 * @param within where in a model a part of it stands; null for what has the model’s own place
 */
export function fill(
  mesh: InstancedMesh,
  places: readonly number[],
  matrices: readonly Matrix4[],
  within: Matrix4 | null,
  around: Sphere,
): void {
  const made = new Matrix4();
  places.forEach((place, index) => {
    const matrix = matrices[place];
    if (!matrix) return;
    mesh.setMatrixAt(index, within ? made.multiplyMatrices(matrix, within) : matrix);
  });
  mesh.count = places.length;
  mesh.instanceMatrix.needsUpdate = true;
  // Around all of the map: to look through tens of thousands of boxes for their middle takes its time in each frame.
  mesh.boundingSphere = around;
}
