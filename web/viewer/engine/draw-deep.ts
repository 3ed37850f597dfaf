import {
  PerspectiveCamera,
  type OrthographicCamera,
  type Scene,
  type Sphere,
  Vector3,
  type WebGLRenderer,
} from 'three';
import { depthSlices, type Reach } from './depth-slices.ts';

/** How far a ball is from the eye, along the line of sight. */
export function reachOf({ center, radius }: Sphere, camera: PerspectiveCamera | OrthographicCamera): Reach {
  const ahead = camera.getWorldDirection(new Vector3());
  return { distance: new Vector3().subVectors(center, camera.position).dot(ahead), radius };
}

/**
 * Draws a scene in slices of depth, the farthest first, so that a thing of a millimetre and one of ten kilometres are there at
 * once. In parallel projection depth is even: one pass, and what lies behind the eye as well.
 */
export function drawDeep(
  renderer: WebGLRenderer,
  scene: Scene,
  camera: PerspectiveCamera | OrthographicCamera,
  reaches: readonly Reach[],
): void {
  renderer.clear();
  if (!(camera instanceof PerspectiveCamera)) {
    const far = Math.max(...reaches.map(({ distance, radius }) => distance + radius), 1e-6);
    camera.near = Math.min(...reaches.map(({ distance, radius }) => distance - radius), 0) - far * 0.01;
    camera.far = far * 1.01;
    camera.updateProjectionMatrix();
    renderer.render(scene, camera);
    return;
  }
  for (const { near, far } of depthSlices(reaches)) {
    camera.near = near;
    camera.far = far;
    camera.updateProjectionMatrix();
    renderer.clearDepth();
    renderer.render(scene, camera);
  }
}
