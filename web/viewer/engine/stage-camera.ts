import { Box3, MathUtils, OrthographicCamera, PerspectiveCamera, Sphere, Vector3 } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';

/** From where a model is looked at. */
export interface View {
  position: [number, number, number];
  target: [number, number, number];
  /** Metres from the lower edge to the upper one at the target, in parallel projection; nothing in perspective. */
  height?: number | undefined;
}

export const sides = ['front', 'back', 'left', 'right', 'above', 'below'] as const;
export type Side = (typeof sides)[number];

/** Directions from the target to the eye. The front of a model faces +Z (glTF 2.0, 3.4). */
const directions: Readonly<Record<Side, readonly [number, number, number]>> = {
  front: [0, 0, 1],
  back: [0, 0, -1],
  left: [1, 0, 0],
  right: [-1, 0, 0],
  // Not quite from above: the picture needs an upward direction.
  above: [0, 1, 1e-4],
  below: [0, -1, 1e-4],
};
const threeQuarters = new Vector3(0.62, 0.48, 1).normalize();
const fieldOfViewDegrees = 35;
const tangent = Math.tan(MathUtils.degToRad(fieldOfViewDegrees) / 2);

/**
 * Eyes of a stage, in perspective and in parallel projection, with what steers them. Near and far planes follow what is to be
 * seen, see `depth-slices.ts`: a model of a millimetre and one of ten kilometres are there at once.
 */
export class StageCamera {
  onChange: (isFromOutside: boolean) => void = () => undefined;
  readonly controls: OrbitControls;
  private readonly perspective = new PerspectiveCamera(fieldOfViewDegrees, 1, 0.01, 1000);
  private readonly parallel = new OrthographicCamera(-1, 1, 1, -1, 0.01, 1000);
  private isSteered = false;
  private aspect = 1;
  private isParallelNow = false;

  constructor(element: HTMLElement) {
    this.controls = new OrbitControls(this.perspective, element);
    this.controls.zoomToCursor = true;
    this.controls.addEventListener('change', () => this.onChange(this.isSteered));
  }

  get camera(): PerspectiveCamera | OrthographicCamera {
    return this.isParallelNow ? this.parallel : this.perspective;
  }

  get isParallel(): boolean {
    return this.isParallelNow;
  }

  /** Metres from the lower edge to the upper one, at the target. */
  get height(): number {
    if (this.isParallelNow) return (this.parallel.top - this.parallel.bottom) / this.parallel.zoom;
    return 2 * this.distance * tangent;
  }

  get view(): View {
    return {
      position: this.camera.position.toArray(),
      target: this.controls.target.toArray(),
      ...(this.isParallelNow && { height: this.height }),
    };
  }

  setAspect(width: number, height: number): void {
    this.aspect = Math.max(1, width) / Math.max(1, height);
    this.perspective.aspect = this.aspect;
    this.perspective.updateProjectionMatrix();
    this.frame((this.parallel.top - this.parallel.bottom) / this.parallel.zoom);
  }

  /** Looks from where another one looks. */
  setView({ position, target, height }: View): void {
    this.steer(() => {
      this.change(height !== undefined);
      this.camera.position.fromArray(position);
      this.controls.target.fromArray(target);
      if (height !== undefined) this.frame(height);
    });
  }

  /** Goes over to the other projection; what lies at the target keeps its size. */
  setParallel(isParallel: boolean): void {
    if (isParallel === this.isParallelNow) return;
    const { height } = this;
    const { position, target } = this.view;
    this.steer(() => {
      this.change(isParallel);
      this.controls.target.fromArray(target);
      const offset = new Vector3().fromArray(position).sub(this.controls.target);
      if (isParallel) this.frame(height);
      else offset.setLength(height / 2 / tangent);
      this.camera.position.copy(this.controls.target).add(offset);
    }, false);
  }

  /** Brings something into view as a whole. @param from nothing for the side that it is looked at from now @param isAsked whether a person asked for it */
  fit(bounds: Box3, from: Side | 'three-quarters' | null, isAsked = true): void {
    const box = bounds.isEmpty() ? new Box3(new Vector3(-1, -1, -1), new Vector3(1, 1, 1)) : bounds;
    const { center, radius } = box.getBoundingSphere(new Sphere());
    const size = Math.max(radius, 1e-9);
    const direction = new Vector3();
    if (from === null) direction.subVectors(this.camera.position, this.controls.target).normalize();
    else if (from === 'three-quarters') direction.copy(threeQuarters);
    else direction.fromArray(directions[from]).normalize();
    if (direction.lengthSq() === 0) direction.copy(threeQuarters);
    const narrow = Math.min(1, this.aspect);
    const distance = (size / Math.sin(MathUtils.degToRad(fieldOfViewDegrees) / 2) / narrow) * 1.02;
    this.steer(() => {
      this.controls.target.copy(center);
      this.camera.position.copy(center).addScaledVector(direction, distance);
      this.frame((2 * size * 1.04) / narrow);
      // A small thing may stand beside a large one.
      this.controls.minDistance = size / 1e9;
      this.controls.maxDistance = distance * 40;
    }, !isAsked);
  }

  /** Turns about the vertical and tilts, in radians. */
  turn(sideways: number, upwards: number): void {
    const offset = this.offset();
    const length = offset.length();
    const around = Math.atan2(offset.x, offset.z) + sideways;
    const above = MathUtils.clamp(
      Math.asin(MathUtils.clamp(offset.y / length, -1, 1)) + upwards,
      -1.55,
      1.55,
    );
    offset
      .set(Math.sin(around) * Math.cos(above), Math.sin(above), Math.cos(around) * Math.cos(above))
      .multiplyScalar(length);
    this.steer(() => this.camera.position.copy(this.controls.target).add(offset), false);
  }

  /** Shifts the picture, by parts of its height. */
  shift(sideways: number, upwards: number): void {
    const { height } = this;
    const [right, up] = [new Vector3(), new Vector3()];
    this.camera.matrixWorld.extractBasis(right, up, new Vector3());
    const by = right.multiplyScalar(sideways * height).addScaledVector(up, upwards * height);
    this.moveBoth(by);
  }

  /** Goes through the scene: ahead, sideways and up, by parts of the distance to the target. */
  fly(ahead: number, sideways: number, upwards: number): void {
    const [right, back] = [new Vector3(), new Vector3()];
    this.camera.matrixWorld.extractBasis(right, new Vector3(), back);
    const by = back.multiplyScalar(-ahead).addScaledVector(right, sideways);
    by.y += upwards;
    this.moveBoth(by.multiplyScalar(this.distance));
  }

  /** Goes nearer (below 1) or away (above 1). */
  approach(factor: number): void {
    this.steer(() => {
      if (this.isParallelNow) this.frame(this.height * factor);
      else this.camera.position.copy(this.controls.target).add(this.offset().multiplyScalar(factor));
    }, false);
  }

  close(): void {
    this.controls.dispose();
  }

  private get distance(): number {
    return this.camera.position.distanceTo(this.controls.target);
  }

  private offset(): Vector3 {
    return this.camera.position.clone().sub(this.controls.target);
  }

  private moveBoth(by: Vector3): void {
    this.steer(() => {
      this.camera.position.add(by);
      this.controls.target.add(by);
    }, false);
  }

  /** Does something to the camera, and says so once. @param isFromOutside whether another canvas asked for it */
  private steer(move: () => void, isFromOutside = true): void {
    this.isSteered = true;
    move();
    this.camera.updateMatrixWorld();
    this.controls.update();
    this.isSteered = false;
    this.onChange(isFromOutside);
  }

  private change(isParallel: boolean): void {
    if (isParallel === this.isParallelNow) return;
    this.isParallelNow = isParallel;
    this.controls.object = this.camera;
  }

  /** Sets how much the parallel eye sees. */
  private frame(height: number): void {
    const [half, side] = [height / 2, (height / 2) * this.aspect];
    Object.assign(this.parallel, { left: -side, right: side, top: half, bottom: -half, zoom: 1 });
    this.parallel.updateProjectionMatrix();
  }
}
