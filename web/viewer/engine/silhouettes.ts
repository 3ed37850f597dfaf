import {
  Color,
  MeshBasicMaterial,
  OrthographicCamera,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderTarget,
  DoubleSide,
  type Box3,
  type Object3D,
  type WebGLRenderer,
} from 'three';

/** From the front, the side, above, and two corners: what differs nowhere there is not seen. */
const directions = [
  [0, 0, 1],
  [1, 0, 0],
  [0.02, 1, 0],
  [1, 0.6, 1],
  [-1, 0.3, 0.7],
] as const;

const sizePixels = 256;

/** Which pixels a model covers from several sides: one byte each, other than 0 for covered. @param box that all of them fit in */
export function silhouettesOf(renderer: WebGLRenderer, model: Object3D, box: Box3): Uint8Array[] {
  const { center, radius } = box.getBoundingSphere(new Sphere());
  const target = new WebGLRenderTarget(sizePixels, sizePixels);
  const scene = new Scene();
  scene.overrideMaterial = new MeshBasicMaterial({ color: 0xffffff, side: DoubleSide });
  const home = model.parent;
  scene.add(model);
  const { toneMapping, clippingPlanes } = renderer;
  const ground = renderer.getClearColor(new Color());
  const alpha = renderer.getClearAlpha();
  renderer.toneMapping = 0;
  renderer.clippingPlanes = [];
  renderer.setClearColor(0x000000, 0);
  renderer.setRenderTarget(target);
  const masks = directions.map((direction) => {
    const camera = new OrthographicCamera(-radius, radius, radius, -radius, 0, radius * 4);
    camera.position.copy(center).addScaledVector(new Vector3(...direction).normalize(), radius * 2);
    camera.lookAt(center);
    renderer.clear();
    renderer.render(scene, camera);
    const rgba = new Uint8Array(sizePixels * sizePixels * 4);
    renderer.readRenderTargetPixels(target, 0, 0, sizePixels, sizePixels, rgba);
    return Uint8Array.from({ length: sizePixels * sizePixels }, (_, at) => rgba[at * 4 + 3] ?? 0);
  });
  renderer.setRenderTarget(null);
  renderer.setClearColor(ground, alpha);
  renderer.toneMapping = toneMapping;
  renderer.clippingPlanes = clippingPlanes;
  scene.overrideMaterial.dispose();
  target.dispose();
  home?.add(model);
  return masks;
}
