import { AmbientLight, Box3, DirectionalLight, PerspectiveCamera, Scene, Sphere, WebGLRenderer } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { ModelCanvas } from '../../web/viewer/engine/model-canvas.ts';

/** What the page of the benchmark offers: a model from the server to its first picture, in milliseconds. */
export interface LookPage {
  ours: (address: string) => Promise<number>;
  plain: (address: string) => Promise<number>;
}

const [width, height] = [800, 500];

function holder(): HTMLElement {
  const element = document.createElement('div');
  element.style.cssText = `width:${width}px;height:${height}px`;
  document.body.append(element);
  return element;
}

/** Waits until all that was asked of the graphics is drawn. */
function finish(canvas: HTMLCanvasElement): void {
  const context = canvas.getContext('webgl2');
  context?.readPixels(0, 0, 1, 1, context.RGBA, context.UNSIGNED_BYTE, new Uint8Array(4));
}

const page: LookPage = {
  async ours(address) {
    const begin = performance.now();
    const canvas = new ModelCanvas(holder());
    await canvas.load(address);
    await new Promise<void>((resolve) => {
      canvas.onScaleBar = () => resolve();
      canvas.draw();
    });
    const element = document.querySelector('canvas');
    if (element) finish(element);
    return performance.now() - begin;
  },
  // As the example of the library’s loader does it.
  async plain(address) {
    const begin = performance.now();
    const renderer = new WebGLRenderer({ antialias: true });
    renderer.setSize(width, height);
    holder().append(renderer.domElement);
    const scene = new Scene();
    scene.add(new AmbientLight(0xffffff, 1.3), new DirectionalLight(0xffffff, 2.2));
    const { scene: model } = await new GLTFLoader().loadAsync(address);
    scene.add(model);
    const { center, radius } = new Box3().setFromObject(model).getBoundingSphere(new Sphere());
    const camera = new PerspectiveCamera(45, width / height, radius / 100, radius * 10);
    camera.position.copy(center).addScalar(radius * 1.5);
    camera.lookAt(center);
    await new Promise(requestAnimationFrame);
    renderer.render(scene, camera);
    finish(renderer.domElement);
    return performance.now() - begin;
  },
};
Object.assign(window, { look: page });
