import {
  AmbientLight,
  AnimationMixer,
  Box3,
  DirectionalLight,
  Group,
  LoopRepeat,
  Material,
  Mesh,
  Object3D,
  PerspectiveCamera,
  Scene,
  SkeletonHelper,
  Texture,
  Vector3,
  WebGLRenderer,
  type AnimationClip,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';

export interface PartEntry {
  name: string;
  isVisible: boolean;
}

export interface ScaleBar {
  /** Length in metres, a round number. */
  metres: number;
  pixels: number;
}

/** From where a model is looked at. */
export interface View {
  position: [number, number, number];
  target: [number, number, number];
}

export interface CanvasReport {
  parts: PartEntry[];
  clips: { name: string; seconds: number }[];
  hasSkeleton: boolean;
}

/**
 * One canvas with a model on it. Draws when something changed, and in a loop only while a clip plays. Metres, Y up.
 * Near and far planes follow the model's size, so that huge and tiny ones do not vanish.
 */
export class ModelCanvas {
  onScaleBar: (bar: ScaleBar) => void = () => undefined;
  /** Called when the camera was moved here, and not from outside. */
  onView: (view: View) => void = () => undefined;
  private readonly holder: HTMLElement;
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(35, 1, 0.01, 1000);
  private readonly controls: OrbitControls;
  private readonly observer: ResizeObserver;
  private content = new Group();
  private parts: Object3D[] = [];
  private clips: AnimationClip[] = [];
  private mixer: AnimationMixer | null = null;
  private skeleton: SkeletonHelper | null = null;
  private frame = 0;
  private lastMs = 0;
  private closed = false;
  private isSteered = false;
  private ghost: Object3D | null = null;

  /** @throws Error where the browser has no WebGL */
  constructor(holder: HTMLElement) {
    this.holder = holder;
    this.renderer = new WebGLRenderer({ antialias: true, alpha: true });
    this.renderer.domElement.style.display = 'block';
    holder.append(this.renderer.domElement);
    const sun = new DirectionalLight(0xffffff, 2.2);
    sun.position.set(-0.35, 0.9, 0.6);
    this.scene.add(new AmbientLight(0xffffff, 1.3), sun, this.content);
    this.controls = new OrbitControls(this.camera, this.renderer.domElement);
    this.controls.addEventListener('change', () => {
      this.draw();
      if (!this.isSteered) this.onView(this.view);
    });
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(holder);
    this.resize();
  }

  /** @throws Error that says why the file cannot be shown */
  async load(url: string): Promise<CanvasReport> {
    const gltf = await new GLTFLoader().loadAsync(url);
    if (this.closed) return { parts: [], clips: [], hasSkeleton: false };
    return this.show(gltf.scene, gltf.animations);
  }

  show(model: Object3D, clips: AnimationClip[] = []): CanvasReport {
    this.clear();
    this.content.add(model);
    this.clips = clips;
    this.mixer = clips.length > 0 ? new AnimationMixer(model) : null;
    this.parts = [];
    let hasSkeleton = false;
    model.traverse((object) => {
      if (object instanceof Mesh) this.parts.push(object);
      if ('isSkinnedMesh' in object) hasSkeleton = true;
    });
    this.lookAtAll();
    return {
      parts: this.parts.map((part, index) => ({
        name: part.name || part.parent?.name || `part ${index + 1}`,
        isVisible: part.visible,
      })),
      clips: clips.map(({ name, duration }) => ({ name, seconds: duration })),
      hasSkeleton,
    };
  }

  get view(): View {
    return { position: this.camera.position.toArray(), target: this.controls.target.toArray() };
  }

  /** Looks from where another canvas looks. */
  setView({ position, target }: View): void {
    this.isSteered = true;
    this.camera.position.fromArray(position);
    this.controls.target.fromArray(target);
    this.controls.update();
    this.isSteered = false;
    this.draw();
  }

  /** What stands on the canvas, for those who measure it. */
  get model(): Object3D {
    return this.content;
  }

  /** Lays another model over this one, so that both show; null takes it away. */
  setGhost(model: Object3D | null): void {
    if (this.ghost) this.scene.remove(this.ghost);
    this.ghost = model;
    if (model) this.scene.add(model);
    this.draw();
  }

  /** Stops a clip at a moment; -1 is the pose at rest. */
  stopAt(index: number, seconds: number): void {
    this.mixer?.stopAllAction();
    const clip = this.clips[index];
    if (clip && this.mixer) {
      this.mixer.clipAction(clip).setLoop(LoopRepeat, Infinity).play();
      this.mixer.setTime(Math.min(seconds, Math.max(0, clip.duration - 1e-4)));
      this.mixer.clipAction(clip).paused = true;
    }
    this.draw();
  }

  setPartVisible(index: number, isVisible: boolean): void {
    const part = this.parts[index];
    if (part) part.visible = isVisible;
    this.draw();
  }

  setWireframe(isOn: boolean): void {
    for (const material of this.materials()) if ('wireframe' in material) material.wireframe = isOn;
    this.draw();
  }

  setSkeletonVisible(isOn: boolean): void {
    if (this.skeleton) this.scene.remove(this.skeleton);
    this.skeleton = isOn ? new SkeletonHelper(this.content) : null;
    if (this.skeleton) this.scene.add(this.skeleton);
    this.draw();
  }

  /** Plays one clip from its start; -1 stops and goes back to the pose at rest. */
  play(index: number): void {
    this.mixer?.stopAllAction();
    const clip = this.clips[index];
    if (clip) this.mixer?.clipAction(clip).setLoop(LoopRepeat, Infinity).play();
    this.lastMs = performance.now();
    this.draw();
  }

  /** Brings the whole model into view, from the front right and a little above. */
  lookAtAll(): void {
    this.scene.updateMatrixWorld(true);
    const bounds = new Box3().setFromObject(this.content, true);
    if (bounds.isEmpty()) bounds.set(new Vector3(-1, -1, -1), new Vector3(1, 1, 1));
    const centre = bounds.getCenter(new Vector3());
    const radius = Math.max(bounds.getSize(new Vector3()).length() / 2, 1e-6);
    const aspect = Math.min(1, this.camera.aspect);
    const distance = (radius / Math.sin((this.camera.fov * Math.PI) / 360) / aspect) * 1.02;
    this.camera.position.copy(centre).addScaledVector(new Vector3(0.62, 0.48, 1).normalize(), distance);
    this.camera.near = distance / 1000;
    this.camera.far = distance * 20;
    this.camera.updateProjectionMatrix();
    this.controls.target.copy(centre);
    this.controls.minDistance = radius / 100;
    this.controls.maxDistance = distance * 8;
    this.controls.update();
    this.draw();
  }

  /** Turns about the vertical and tilts, in radians: for keys. */
  turn(sideways: number, upwards: number): void {
    const offset = this.camera.position.clone().sub(this.controls.target);
    const length = offset.length();
    const around = Math.atan2(offset.x, offset.z) + sideways;
    const above = Math.max(-1.5, Math.min(1.5, Math.asin(offset.y / length) + upwards));
    offset
      .set(Math.sin(around) * Math.cos(above), Math.sin(above), Math.cos(around) * Math.cos(above))
      .multiplyScalar(length);
    this.camera.position.copy(this.controls.target).add(offset);
    this.controls.update();
    this.draw();
  }

  /** Goes nearer (below 1) or away (above 1). */
  approach(factor: number): void {
    const offset = this.camera.position.clone().sub(this.controls.target).multiplyScalar(factor);
    this.camera.position.copy(this.controls.target).add(offset);
    this.controls.update();
    this.draw();
  }

  close(): void {
    this.closed = true;
    cancelAnimationFrame(this.frame);
    this.observer.disconnect();
    this.controls.dispose();
    this.clear();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
    this.renderer.domElement.remove();
  }

  draw(): void {
    if (this.frame !== 0 || this.closed) return;
    this.frame = requestAnimationFrame((ms) => {
      this.frame = 0;
      const isPlaying =
        this.mixer !== null && this.clips.some((clip) => this.mixer?.existingAction(clip)?.isRunning());
      if (isPlaying) this.mixer?.update(Math.max(0, Math.min(0.1, (ms - this.lastMs) / 1000)));
      this.lastMs = ms;
      this.renderer.render(this.scene, this.camera);
      this.onScaleBar(this.scaleBar());
      if (isPlaying) this.draw();
    });
  }

  private scaleBar(): ScaleBar {
    const distance = this.camera.position.distanceTo(this.controls.target);
    const metresHigh = 2 * distance * Math.tan((this.camera.fov * Math.PI) / 360);
    const metresPerPixel = metresHigh / Math.max(1, this.holder.clientHeight);
    const metres = roundLength(metresPerPixel * 120);
    return { metres, pixels: metres / metresPerPixel };
  }

  private resize(): void {
    const { clientWidth, clientHeight } = this.holder;
    this.camera.aspect = Math.max(1, clientWidth) / Math.max(1, clientHeight);
    this.camera.updateProjectionMatrix();
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.setSize(clientWidth, clientHeight);
    this.draw();
  }

  private materials(): Material[] {
    return this.parts.flatMap((part) => (part instanceof Mesh ? ([part.material].flat() as Material[]) : []));
  }

  private clear(): void {
    this.mixer?.stopAllAction();
    if (this.skeleton) this.scene.remove(this.skeleton);
    this.skeleton = null;
    for (const material of this.materials()) {
      for (const value of Object.values(material)) if (value instanceof Texture) value.dispose();
      material.dispose();
    }
    for (const part of this.parts) if (part instanceof Mesh) (part.geometry as { dispose(): void }).dispose();
    this.content.clear();
    this.parts = [];
  }
}

/** The largest of 1, 2, 5 times a power of ten that is not above `length`. */
export function roundLength(length: number): number {
  const power = 10 ** Math.floor(Math.log10(length));
  const step = [5, 2, 1].find((candidate) => candidate * power <= length) ?? 1;
  return step * power;
}
