import { Box3, Vector3 } from 'three';
import { ModelCanvas } from '../../web/viewer/engine/model-canvas.ts';

/** What the page offers: which pixels of a square a model covers, by the viewer’s own engine. */
export interface SilhouettePage {
  /**
   * @param address of a GLB
   * @param eye direction from the model to the eye
   * @param margin that is left at either side, of the picture
   * @returns a byte to a pixel, 0 or 1, row by row
   */
  cover: (address: string, eye: [number, number, number], margin: number) => Promise<number[]>;
}

const holder = document.createElement('div');
Object.assign(holder.style, { width: '320px', height: '320px' });
document.body.append(holder);
const canvas = new ModelCanvas(holder);

const page: SilhouettePage = {
  async cover(address, eye, margin) {
    await canvas.load(address);
    const direction = new Vector3(...eye).normalize();
    const right = new Vector3(0, 1, 0).cross(direction).normalize();
    const up = direction.clone().cross(right);
    const box = new Box3();
    const corner = new Vector3();
    canvas.model.traverse((object) => {
      if (!('isMesh' in object)) return;
      const mesh = object as import('three').Mesh;
      const position = mesh.geometry.getAttribute('position');
      for (let at = 0; at < position.count; at++) {
        mesh.getVertexPosition(at, corner).applyMatrix4(mesh.matrixWorld);
        box.expandByPoint(new Vector3(corner.dot(right), corner.dot(up), corner.dot(direction)));
      }
    });
    const size = box.getSize(new Vector3());
    const middle = box.getCenter(new Vector3());
    const target = right
      .clone()
      .multiplyScalar(middle.x)
      .addScaledVector(up, middle.y)
      .addScaledVector(direction, middle.z);
    const extent = Math.max(size.x, size.y);
    const position = target.clone().addScaledVector(direction, extent * 4 + size.z);
    canvas.setView({
      position: position.toArray(),
      target: target.toArray(),
      height: extent / (1 - 2 * margin),
    });
    canvas.draw();
    // Asked for after the engine’s own: what it drew is still there.
    await new Promise<void>((resolve) => requestAnimationFrame(() => resolve()));
    const copy = document.createElement('canvas');
    copy.width = copy.height = 320;
    const context = copy.getContext('2d');
    const drawn = holder.querySelector('canvas');
    if (!context || !drawn) throw new Error('nothing was drawn');
    canvas.draw();
    await new Promise<void>((resolve) =>
      requestAnimationFrame(() => {
        context.drawImage(drawn, 0, 0, 320, 320);
        resolve();
      }),
    );
    const { data } = context.getImageData(0, 0, 320, 320);
    return Array.from({ length: 320 * 320 }, (_, at) => ((data[at * 4 + 3] ?? 0) >= 128 ? 1 : 0));
  },
};
Object.assign(window, { silhouettes: page });
