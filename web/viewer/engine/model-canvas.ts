import {
  AmbientLight,
  Box3,
  DirectionalLight,
  Group,
  LinearToneMapping,
  MathUtils,
  Mesh,
  NoToneMapping,
  Raycaster,
  Scene,
  Sphere,
  Vector2,
  Vector3,
  type WebGLRenderer,
  type AnimationClip,
  type BufferGeometry,
  type Object3D,
} from 'three';
import { atRest, type ClipPlayer, type PlayedLayer, type Playing } from './clip-player.ts';
import { drawDeep, reachOf } from './draw-deep.ts';
import { loadModel, type LoadingOptions } from './load-model.ts';
import { isSameLook, plainLook, type Look } from './look.ts';
import type { PartMove } from './moved-parts.ts';
import { Overlays, type OverlayColours } from './overlays.ts';
import { standInNeutralSurroundings } from './neutral-surroundings.ts';
import type { PlacedProp } from './props.ts';
import { giveBackRenderer, isDrawnInSoftware, keepPrograms, takeRenderer } from './renderers.ts';
import { silhouettesOf } from './silhouettes.ts';
import { blobOf } from './still-picture.ts';
import { scaleBarOf, type ScaleBar } from './scale-bar.ts';
import { StageCamera, type Side, type View } from './stage-camera.ts';
import { noReport, StandingModel, type CanvasReport } from './standing-model.ts';
import type { Legend, WayOfSeeing } from './ways-of-seeing.ts';
import type { WornTexture } from './worn-textures.ts';

const plainColours: OverlayColours = { ink: '#12352f', accent: '#a83c16' };

/**
 * One canvas with a model on it. Draws when something changed, and in a loop only while a clip plays. Metres, Y up.
 */
export class ModelCanvas {
  onScaleBar: (bar: ScaleBar) => void = () => undefined;
  /** Called when the camera was moved here, and not from outside. */
  onView: (view: View) => void = () => undefined;
  /** Called with the part that somebody pointed at; null for none. */
  onPart: (part: number | null) => void = () => undefined;
  /** The same, with what it is in the scene. */
  onHit: (hit: { object: Object3D; instance: number | undefined } | null) => void = () => undefined;
  /** Called with how far two points are from each other that somebody pointed at; null while the second one is missing. */
  onMeasure: (metres: number | null) => void = () => undefined;
  /** Called with the moment of the clip that is drawn. */
  onMoment: (seconds: number) => void = () => undefined;
  /** Called where a clip that is not repeated has come to its end. */
  onEnd: () => void = () => undefined;
  isMeasuring = false;
  private readonly holder: HTMLElement;
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly eye: StageCamera;
  private readonly lights = new Group();
  private readonly observer: ResizeObserver;
  private readonly overlays: Overlays;
  private readonly standing = new StandingModel();
  private aroundGhost: Sphere | null = null;
  private look: Look = plainLook;
  /** What colours mean now, where they mean numbers. */
  private legend: Legend | null = null;
  private hasWires = false;
  private measured: Vector3[] = [];
  private frame = 0;
  private lastMs = 0;
  /** Aborted when this is closed. */
  private readonly closing = new AbortController();
  /** Whether nobody has moved the camera since all was brought into view. */
  private isAsFitted = false;
  private ghost: Object3D | null = null;
  private pressed = new Vector2();

  /** @throws Error where the browser has no WebGL */
  constructor(holder: HTMLElement, colours: OverlayColours = plainColours) {
    this.holder = holder;
    standInNeutralSurroundings();
    this.renderer = takeRenderer();
    this.renderer.autoClear = false;
    const element = this.renderer.domElement;
    element.style.display = 'block';
    // Until something is drawn there may be what was drawn before, somewhere else.
    element.style.visibility = 'hidden';
    holder.append(element);
    const sun = new DirectionalLight(0xffffff, 2.2);
    sun.position.set(-0.35, 0.9, 0.6);
    this.lights.add(sun);
    this.overlays = new Overlays(colours);
    this.scene.add(new AmbientLight(0xffffff, 1.3), this.lights, this.standing.content, this.overlays.group);
    this.eye = new StageCamera(element);
    this.eye.onChange = (isFromOutside) => {
      this.draw();
      this.isAsFitted = false;
      if (!isFromOutside) this.onView(this.eye.view);
    };
    const { signal } = this.closing;
    element.addEventListener('pointerdown', ({ offsetX, offsetY }) => this.pressed.set(offsetX, offsetY), {
      signal,
    });
    element.addEventListener('pointerup', (event) => this.point(event), { signal });
    // A graphics context that was lost comes back by itself: the library makes all anew, and draws when it is asked.
    element.addEventListener('webglcontextrestored', () => this.draw(), { signal });
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(holder);
    this.resize();
  }

  /** @throws Error that says why the file cannot be shown */
  async load(address: string, options: LoadingOptions = {}, isViewKept = false): Promise<CanvasReport> {
    const { scene, clips } = await loadModel(address, options);
    if (this.isClosed) return noReport;
    return this.show(scene, clips, isViewKept);
  }

  /** @param isViewKept whether it is looked at from where the one before was */
  show(model: Object3D, clips: AnimationClip[] = [], isViewKept = false): CanvasReport {
    this.clear();
    const report = this.standing.show(model, clips);
    if (!isViewKept) {
      this.eye.fit(this.standing.all, 'three-quarters', false);
      this.isAsFitted = true;
    }
    this.showLook(this.look);
    return report;
  }

  /** Shows the model so. @returns what its colours mean, where they mean numbers */
  setLook(look: Look): Legend | null {
    // It is said again whenever anything is: drawing anew takes long where there is no graphics processor.
    if (!isSameLook(look, this.look)) this.showLook(look);
    return this.legend;
  }

  private showLook(look: Look): void {
    this.look = look;
    const { standing } = this;
    const { isPainted, legend } = standing.setLook(look);
    if (isPainted || look.hasWires !== this.hasWires) this.overlays.setWires(standing.meshes, look.hasWires);
    this.hasWires = look.hasWires;
    this.overlays.setBones(
      look.hasBones ? standing.content : null,
      look.hasBones ? standing.boneCalled(look.bone) : null,
    );
    this.overlays.setBox('all', look.hasBounds ? standing.all : null);
    this.overlays.setBox('part', standing.boxOf(look.part));
    this.lights.rotation.y = MathUtils.degToRad(look.lightDegrees);
    this.renderer.toneMapping = look.exposure === 0 ? NoToneMapping : LinearToneMapping;
    this.renderer.toneMappingExposure = 2 ** look.exposure;
    this.renderer.clippingPlanes = look.section ? [standing.planeOf(look.section)] : [];
    this.legend = legend;
    this.draw();
  }

  setWireframe(isOn: boolean): void {
    this.setLook({ ...this.look, hasWires: isOn });
  }

  setSkeletonVisible(isOn: boolean): void {
    this.setLook({ ...this.look, hasBones: isOn });
  }

  get view(): View {
    return this.eye.view;
  }

  /** Looks from where another canvas looks. */
  setView(view: View): void {
    this.eye.setView(view);
  }

  setParallel(isParallel: boolean): void {
    this.eye.setParallel(isParallel);
  }

  /** What stands on the canvas, for those who measure it. */
  get model(): Object3D {
    return this.standing.content;
  }

  /** Lays another model over this one, so that both show; null takes it away. */
  setGhost(model: Object3D | null): void {
    if (this.ghost) this.scene.remove(this.ghost);
    this.ghost = model;
    this.aroundGhost = model && new Box3().setFromObject(model).getBoundingSphere(new Sphere());
    if (model) this.scene.add(model);
    this.draw();
  }

  /** Plays a clip, or stops. */
  play(playing: Playing): void {
    const isOther = this.player?.play(playing) === true;
    this.lastMs = performance.now();
    if (isOther) this.draw();
  }

  seek(seconds: number): void {
    this.player?.seek(seconds);
    this.draw();
  }

  /** Stops a clip at a moment; -1 is the pose at rest. */
  stopAt(clip: number, seconds: number): void {
    this.player?.play({ ...atRest, clip, isLoop: false });
    this.seek(seconds);
  }

  /** Marks a place, and brings it into view; null takes the mark away. */
  mark(box: Box3 | null, isFitted: boolean): void {
    if (!this.overlays.setBox('mark', box)) return;
    if (box && isFitted) {
      // With what stands around it: by itself nobody would know where it is.
      const room = this.standing.all.getSize(new Vector3()).length() * 0.02;
      this.eye.fit(box.clone().expandByScalar(Math.max(room, box.getSize(new Vector3()).length())), null);
    }
    this.draw();
  }

  /** Puts a clip of another file to those that can be played; null where that has no such clip. */
  async addClip(address: string, name: string): Promise<ReturnType<ClipPlayer['add']> | null> {
    const { player } = this;
    const { scene, clips } = await loadModel(address);
    const clip = clips.find((one) => one.name === name);
    // Another model stands here by now.
    return clip && player && player === this.player ? player.add(clip, scene) : null;
  }

  /** Lays clips over the one that is played. @param layers their masks by places of bones */
  setLayers(layers: readonly (Omit<PlayedLayer, 'mask'> & { mask: ReadonlySet<number> | null })[]): void {
    if (this.standing.setLayers(layers)) this.draw();
  }

  /** Parts stand elsewhere than their file says, by their places in the list. */
  setMoved(moves: ReadonlyMap<number, PartMove>): void {
    if (this.standing.setMoved(moves)) this.showLook(this.look);
  }

  /** Hangs models on the one that stands here. @returns why one could not be hung; null of the others */
  async setProps(props: readonly PlacedProp[]): Promise<(string | null)[]> {
    const outcome = await this.standing.setProps(props);
    if (outcome) this.draw();
    return outcome ?? [];
  }

  /**
   * Dresses materials in other pictures than the file says, or in a set of the file.
   * @returns ways in which it can be seen then, and why pictures cannot be worn; null where something else is asked for by now
   */
  async wear(
    textures: readonly WornTexture[],
    fileVariant: string | null,
  ): Promise<{ ways: WayOfSeeing[]; failures: string[] } | null> {
    const outcome = await this.standing.wear(textures, fileVariant);
    if (outcome) this.showLook(this.look);
    return outcome;
  }

  /** The picture that some parts have as their base colour. */
  pictureOf(parts: readonly number[]): CanvasImageSource | null {
    return this.standing.pictureOf(parts);
  }

  /** Shapes of some parts, for drawing how they are laid out. */
  shapesOf(parts: readonly number[]): BufferGeometry[] {
    return this.standing.shapesOf(parts);
  }

  /** Around all that stands here, at rest. */
  get bounds(): Box3 {
    return this.standing.all.clone();
  }

  /** Which pixels the model covers from several sides; see `silhouettesOf`. */
  silhouettes(box: Box3): Uint8Array[] {
    return silhouettesOf(this.renderer, this.standing.content, box);
  }

  /** Brings the whole model into view, from the front right and a little above, or from a side. */
  lookAtAll(from: Side | 'three-quarters' | null = 'three-quarters'): void {
    this.eye.fit(this.standing.all, from);
  }

  /** Brings a part into view, from where it is looked at now. */
  lookAtPart(id: number): void {
    const box = this.standing.boxOf(id);
    if (box) this.eye.fit(box, null);
  }

  /** For keys; see `StageCamera`. */
  get steering(): Pick<StageCamera, 'turn' | 'shift' | 'fly' | 'approach'> {
    return this.eye;
  }

  /** Forgets the points that were measured. */
  clearMeasured(): void {
    this.measured = [];
    this.overlays.setMeasured([]);
    this.draw();
  }

  /**
   * A picture from the fixed camera that all stills have, on a clear ground.
   * @param width in pixels
   * @param turned how far the model is turned about the vertical, in radians
   */
  async still(
    width: number,
    height: number,
    { turned = 0, type = 'image/png' }: { turned?: number; type?: 'image/png' | 'image/webp' } = {},
  ): Promise<Blob | null> {
    const { view, isParallel } = this.eye;
    const { onView } = this;
    // Nobody looks from there.
    this.onView = () => undefined;
    this.overlays.group.visible = false;
    this.renderer.setPixelRatio(isDrawnInSoftware() && Math.max(width, height) <= 2048 ? 2 : 1);
    this.renderer.setSize(width, height, false);
    this.eye.setAspect(width, height);
    this.eye.setParallel(false);
    this.eye.fit(this.standing.all, 'three-quarters', false);
    if (turned !== 0) this.eye.turn(-turned, 0);
    this.render();
    const made = blobOf(this.renderer.domElement, { width, height, type });
    this.overlays.group.visible = true;
    this.resize();
    this.eye.setParallel(isParallel);
    this.eye.setView(view);
    this.onView = onView;
    return made;
  }

  close(): void {
    this.closing.abort();
    cancelAnimationFrame(this.frame);
    this.observer.disconnect();
    this.eye.close();
    this.clear();
    this.overlays.close();
    giveBackRenderer(this.renderer);
  }

  draw(): void {
    if (this.frame !== 0 || this.isClosed || this.isEmpty) return;
    this.frame = requestAnimationFrame((ms) => {
      this.frame = 0;
      const seconds = Math.max(0, Math.min(0.1, (ms - this.lastMs) / 1000));
      this.lastMs = ms;
      const wasPlaying = this.player?.isRunning === true;
      const isPlaying = wasPlaying && this.player?.advance(seconds) === true;
      this.render();
      this.onScaleBar(scaleBarOf(this.eye.height, this.holder.clientHeight));
      if (this.player) this.onMoment(this.player.time);
      if (isPlaying) this.draw();
      else if (wasPlaying) this.onEnd();
    });
  }

  private get isEmpty(): boolean {
    return this.ghost === null && this.standing.content.children.length === 0;
  }

  private get isClosed(): boolean {
    return this.closing.signal.aborted;
  }

  private get player(): ClipPlayer | null {
    return this.standing.player;
  }

  private render(): void {
    this.renderer.domElement.style.visibility = '';
    const { camera } = this.eye;
    camera.updateMatrixWorld();
    this.overlays.beforeDrawing(this.eye.height * 0.012);
    const reaches = this.standing.reachesFrom(camera);
    if (this.aroundGhost) reaches.push(reachOf(this.aroundGhost, camera));
    drawDeep(this.renderer, this.scene, camera, reaches);
  }

  private point({ offsetX, offsetY, button }: PointerEvent): void {
    if (button !== 0 || this.pressed.distanceTo(new Vector2(offsetX, offsetY)) > 4) return;
    const { clientWidth, clientHeight } = this.renderer.domElement;
    const place = new Vector2((offsetX / clientWidth) * 2 - 1, 1 - (offsetY / clientHeight) * 2);
    const ray = new Raycaster();
    ray.setFromCamera(place, this.eye.camera);
    // Also what came after the rest: models of a map, props.
    const shown: Object3D[] = [];
    this.standing.content.traverseVisible((object) => {
      if (object instanceof Mesh) shown.push(object);
    });
    const hits = ray.intersectObjects(shown, false);
    const hit = hits.find(({ object }) => object.userData.isRoom !== true) ?? hits[0];
    if (!this.isMeasuring) {
      this.onHit(hit ? { object: hit.object, instance: hit.instanceId } : null);
      this.onPart(this.standing.partOf(hit?.object));
      return;
    }
    if (!hit) return;
    this.measured = this.measured.length === 1 ? [...this.measured, hit.point] : [hit.point];
    this.overlays.setMeasured(this.measured);
    const [from, to] = this.measured;
    this.onMeasure(from && to ? from.distanceTo(to) : null);
    this.draw();
  }

  private resize(): void {
    const { clientWidth, clientHeight } = this.holder;
    this.eye.setAspect(clientWidth, clientHeight);
    const ratio = Math.min(2, window.devicePixelRatio);
    const { x, y } = this.renderer.getSize(new Vector2());
    // Each size that is set makes its pictures anew.
    if (x !== clientWidth || y !== clientHeight || this.renderer.getPixelRatio() !== ratio) {
      this.renderer.setPixelRatio(ratio);
      this.renderer.setSize(clientWidth, clientHeight);
    }
    if (this.isAsFitted) {
      this.eye.fit(this.standing.all, 'three-quarters', false);
      this.isAsFitted = true;
    }
    this.draw();
  }

  private clear(): void {
    keepPrograms(this.renderer);
    this.overlays.clear();
    this.standing.clear();
    this.measured = [];
    this.hasWires = false;
  }
}
