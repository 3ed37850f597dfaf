import {
  Box3,
  Group,
  Mesh,
  Plane,
  Sphere,
  Texture,
  Vector3,
  type AnimationClip,
  type Bone,
  type BufferGeometry,
  type Object3D,
  type PerspectiveCamera,
  type OrthographicCamera,
} from 'three';
import { ClipPlayer, type ClipEntry, type PlayedLayer } from './clip-player.ts';
import type { Reach } from './depth-slices.ts';
import { reachOf } from './draw-deep.ts';
import type { Look } from './look.ts';
import { partsOf, type ModelPart, type PartEntry } from './model-parts.ts';
import { MovedParts, type PartMove } from './moved-parts.ts';
import { nodeName } from './node-name.ts';
import { Props, type PlacedProp } from './props.ts';
import { bonesOf, boundsOf, drawnIn, locatorsOf } from './rest-pose.ts';
import { possibleWays, WaysOfSeeing, type Legend, type WayOfSeeing } from './ways-of-seeing.ts';
import { roleTexturesOf, WornTextures, type MaterialEntry, type WornTexture } from './worn-textures.ts';

export interface BoneEntry {
  name: string;
  /** Place of the one that it hangs on; -1 for none. */
  parent: number;
}

export interface CanvasReport {
  parts: PartEntry[];
  clips: readonly ClipEntry[];
  bones: BoneEntry[];
  /** Names of nodes that carry nothing and have no shape: places that a game looks up. */
  locators: string[];
  materials: MaterialEntry[];
  /** Sets of materials that the file itself has, by name. */
  fileVariants: string[];
  ways: WayOfSeeing[];
  hasSkeleton: boolean;
}

export const noReport: CanvasReport = {
  ...{ parts: [], clips: [], bones: [], locators: [], materials: [], fileVariants: [], ways: [] },
  hasSkeleton: false,
};

/** The model that stands on a canvas, and all that was done to it: moved, dressed, played. Metres, Y up. */
export class StandingModel {
  readonly content = new Group();
  /** Around all, at rest. */
  all = new Box3();
  player: ClipPlayer | null = null;
  private parts: ModelPart[] = [];
  private bones: Bone[] = [];
  /** Around each part, at rest. */
  private boxes: Box3[] = [];
  private reaches: Sphere[] = [];
  private readonly ways = new WaysOfSeeing();
  private readonly moved = new MovedParts();
  private readonly props = new Props();
  private readonly worn = new WornTextures();
  private hasProps = false;
  /** The way of seeing that is painted, and what its colours mean. */
  private seen = '';
  private legend: Legend | null = null;

  show(model: Object3D, clips: AnimationClip[]): CanvasReport {
    this.clear();
    this.content.add(model);
    this.parts = partsOf(model);
    this.player = new ClipPlayer(model, clips);
    this.bones = bonesOf(model, this.meshes);
    this.measure();
    const places = new Map<Object3D, number>(this.bones.map((bone, at) => [bone, at]));
    return {
      parts: this.parts.map(({ entry }) => entry),
      clips: this.player.entries,
      bones: this.bones.map((bone) => ({
        name: nodeName(bone),
        parent: bone.parent ? (places.get(bone.parent) ?? -1) : -1,
      })),
      locators: locatorsOf(model),
      ...this.worn.begin(this.parts),
      ways: possibleWays(this.meshes),
      hasSkeleton: this.bones.length > 0,
    };
  }

  get meshes(): Mesh<BufferGeometry>[] {
    return this.parts.map(({ mesh }) => mesh);
  }

  /**
   * Shows the parts so. @returns whether they are painted anew, and what their colours mean, where they mean numbers
   */
  setLook({ hidden, way, bone }: Look): { isPainted: boolean; legend: Legend | null } {
    for (const { entry, mesh } of this.parts) mesh.visible = !hidden.has(entry.id);
    // Colours of densities and copies of textures are made for as long as they are looked at.
    const seen = `${way} ${way === 'weights' ? (bone ?? '') : ''}`;
    const isPainted = seen !== this.seen;
    if (isPainted) this.legend = this.ways.show(this.meshes, way, bone);
    this.seen = seen;
    return { isPainted, legend: this.legend };
  }

  boneCalled(name: string | null): Bone | null {
    return this.bones.find((one) => nodeName(one) === name) ?? null;
  }

  boxOf(part: number | null): Box3 | null {
    return part === null ? null : (this.boxes[part] ?? null);
  }

  /** Place of the part that an object is; null for what is none. */
  partOf(object: Object3D | undefined): number | null {
    return this.parts.find(({ mesh }) => mesh === object)?.entry.id ?? null;
  }

  /** The picture that some parts have as their base colour; null where nothing of it can be drawn. */
  pictureOf(parts: readonly number[]): CanvasImageSource | null {
    for (const id of parts) {
      const mesh = this.parts[id]?.mesh;
      const [material] = mesh ? [this.ways.ownMaterial(mesh)].flat() : [];
      const image = roleTexturesOf(material)['base colour']?.texture.image as CanvasImageSource | undefined;
      if (image instanceof HTMLImageElement || image instanceof ImageBitmap) return image;
    }
    return null;
  }

  /** Shapes of some parts, as lists have them. */
  shapesOf(parts: readonly number[]): BufferGeometry[] {
    return parts.flatMap((id) => this.parts[id]?.mesh.geometry ?? []);
  }

  /** @param layers their masks by places of bones @returns whether the model may stand otherwise than before */
  setLayers(layers: readonly (Omit<PlayedLayer, 'mask'> & { mask: ReadonlySet<number> | null })[]): boolean {
    const masked = layers.map(({ mask, ...layer }) => ({
      ...layer,
      mask: mask && new Set([...mask].flatMap((at) => this.bones[at] ?? [])),
    }));
    return this.player?.setLayers(masked) ?? false;
  }

  /** @param moves by places of parts @returns whether anything stands elsewhere than before */
  setMoved(moves: ReadonlyMap<number, PartMove>): boolean {
    // Measuring a large model takes its time: where nothing moves nothing is measured.
    if (moves.size === 0 && !this.moved.hasMoved) return false;
    this.moved.set(
      new Map(
        this.parts.flatMap(({ entry: { id }, mesh }) => {
          const move = moves.get(id);
          return move ? [[mesh, move] as const] : [];
        }),
      ),
    );
    this.measure();
    return true;
  }

  /**
   * Dresses materials in pictures of their own, and in nothing that was worn before; materials of a set of the file before.
   * @returns ways in which it can be seen then, and why a picture cannot be worn
   */
  async wear(
    textures: readonly WornTexture[],
    fileVariant: string | null,
  ): Promise<{ ways: WayOfSeeing[]; failures: string[] } | null> {
    const made = await this.worn.load(textures);
    if (made === null) return null;
    this.ways.restore();
    this.seen = '';
    this.worn.dress(this.parts, textures, fileVariant);
    return { ways: possibleWays(this.meshes), failures: made };
  }

  /** @returns null where nothing hung here, and nothing is to */
  async setProps(props: readonly PlacedProp[]): Promise<(string | null)[] | null> {
    const hadProps = this.hasProps;
    this.hasProps = props.length > 0;
    if (!hadProps && !this.hasProps) return null;
    return this.props.set(this.content, props);
  }

  /** How far what stands here is from an eye, along the line of sight. */
  reachesFrom(camera: PerspectiveCamera | OrthographicCamera): Reach[] {
    const found = this.reaches.map((sphere) => reachOf(sphere, camera));
    if (this.all.isEmpty()) return found;
    const around = this.all.getBoundingSphere(new Sphere());
    // A clip takes parts away from where they rest; lights, bones, boxes and props lie around all.
    around.radius *= this.player?.entries.length || this.hasProps ? 3 : 1.05;
    found.push(reachOf(around, camera));
    return found;
  }

  /** A plane that cuts the near half away. */
  planeOf({ axis, share }: NonNullable<Look['section']>): Plane {
    const { min, max } = this.all;
    const normal = new Vector3();
    normal[axis] = -1;
    return new Plane(normal, min[axis] + (max[axis] - min[axis]) * share);
  }

  clear(): void {
    this.player?.stop();
    this.player = null;
    this.moved.clear();
    this.ways.restore();
    this.worn.clear();
    for (const drawn of drawnIn(this.content)) {
      for (const material of [(drawn as Mesh).material].flat()) {
        for (const value of Object.values(material)) if (value instanceof Texture) value.dispose();
        material.dispose();
      }
      drawn.geometry.dispose();
    }
    // After what they are made of was given back with the rest.
    this.props.clear();
    this.hasProps = false;
    this.content.clear();
    this.parts = [];
    this.bones = [];
    this.seen = '';
    this.boxes = [];
    this.reaches = [];
    this.all = new Box3();
  }

  /** Around what stands here, and around each part. */
  private measure(): void {
    this.content.updateMatrixWorld(true);
    const bounds = new Map(drawnIn(this.content).map((drawn) => [drawn as Object3D, boundsOf(drawn)]));
    this.boxes = this.parts.map(({ mesh }) => bounds.get(mesh) ?? new Box3());
    const seen = [...bounds.values()].filter((box) => !box.isEmpty());
    this.all = seen.reduce((all, box) => all.union(box), new Box3());
    this.reaches = seen.map((box) => box.getBoundingSphere(new Sphere()));
  }
}
