import {
  AxesHelper,
  Box3,
  BoxGeometry,
  EdgesGeometry,
  Group,
  InstancedBufferAttribute,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  MeshLambertMaterial,
  Quaternion,
  Sphere,
  Vector3,
  type Object3D,
} from 'three';
import type { MapScene } from '../../../contract/assets.ts';
import type { Placement } from '../../../contract/facts.ts';
import { grouped } from '../../../core/grouped.ts';
import { distancesFrom, nearFirst } from '../../../core/kinds/map/near-first.ts';
import { fill, plainCube, sphereAround } from './instances.ts';
import { MapModels } from './map-models.ts';
import { instancesOf, matrixOf } from './map-scene.ts';

/** What may be drawn as it is, at once, and fetched in all. */
export interface Budget {
  triangles: number;
  bytes: number;
}

/** How far a map is there. */
export interface WorldState {
  /** Placements that are drawn as they are; all others are boxes. */
  detailed: number;
  loaded: number;
  loading: number;
  bytes: number;
  /** Why a model cannot be shown, each once. */
  failures: readonly string[];
  /** Whether more would be drawn as it is if the budget were larger. */
  isFull: boolean;
}

export interface WorldColours {
  box: string;
  missing: string;
}

/** Placements of one model and class: shown or not together. */
interface Lot {
  model: string;
  path: string | null;
  class: string;
  /** Places in the list of all. */
  places: number[];
  /** What its boxes are drawn with. */
  stack: Stack;
  /** The model's parts, once it is here. */
  parts: InstancedMesh[];
  detailed: number[];
  /** What is drawn as it is, as a key. */
  key: string;
}

/** Boxes of one class that look alike: one draw for all of them, however many models they stand for. */
interface Stack {
  class: string;
  mesh: InstancedMesh;
  lots: Lot[];
  /** Places by the boxes' own numbers, as they are drawn now. */
  boxed: number[];
}

/** Classes that stand for room rather than for things: common names, no published source. */
const zones = /zone|trigger|volume|region|area/i;
const mostAxes = 400;
/** A box of a model of unknown size. */
const unknown = new Box3(new Vector3(-0.5, 0, -0.5), new Vector3(0.5, 1, 0.5));

/**
 * A map in space: boxes of true size, and models in their place for what is near and large, as far as a budget goes. Instances
 * of one model share it. Classes are switched on and off without loading again.
 */
export class MapWorld {
  readonly scene = new Group();
  onState: (state: WorldState) => void = () => undefined;
  onChange: () => void = () => undefined;
  private readonly placements: readonly Placement[];
  private readonly map: MapScene;
  private readonly lots: Lot[];
  private readonly stacks = new Map<string, Stack>();
  /** Where the boxes of placements stand, of their true size: a cube of a metre, as it becomes each. */
  private readonly boxMatrices: Matrix4[] = [];
  private readonly lotOf: Int32Array;
  private readonly matrices: Matrix4[];
  private readonly centres: Float32Array;
  private readonly radii: Float32Array;
  private readonly around: Sphere;
  private readonly models: MapModels;
  private readonly axes = new Group();
  private readonly cube = plainCube();
  private hidden: ReadonlySet<string> = new Set();
  private budget: Budget = { triangles: 0, bytes: 0 };
  private eye = new Vector3();
  private isFull = false;

  /** @param addressesOf where a model is loaded from, the next one where the one before cannot be shown */
  constructor(map: MapScene, colours: WorldColours, addressesOf: (path: string) => readonly string[]) {
    this.map = map;
    this.placements = map.placements;
    this.models = new MapModels(map.costs, addressesOf);
    this.models.onLoaded = () => this.update(this.eye);
    this.matrices = map.placements.map(matrixOf);
    const count = map.placements.length;
    this.centres = new Float32Array(count * 3);
    this.radii = new Float32Array(count);
    this.lotOf = new Int32Array(count);
    const groups = grouped(map.placements.keys(), (place) => {
      const { model, class: name } = map.placements[place] ?? { model: '', class: '' };
      return `${name}\n${model}`;
    });
    const material = new MeshLambertMaterial({ color: colours.box, flatShading: true });
    const lacking = new MeshLambertMaterial({ color: colours.missing, flatShading: true, wireframe: true });
    const room = new MeshLambertMaterial({
      ...{ color: colours.missing, flatShading: true, transparent: true, opacity: 0.16, depthWrite: false },
    });
    this.lots = [...groups.values()].map((places, at) =>
      this.lotFor(places, at, { material, lacking, room }),
    );
    this.around = sphereAround(this.centres, this.radii);
    for (const stack of this.stacks.values()) {
      const { mesh } = stack;
      const places = stack.lots.flatMap((lot) => lot.places);
      mesh.instanceMatrix = new InstancedBufferAttribute(new Float32Array(places.length * 16), 16);
      this.refill(stack);
      this.scene.add(mesh);
    }
    this.addAxes();
    this.scene.add(this.axes);
  }

  /** Which classes are hidden, and how much is drawn as it is. */
  setShown(hidden: ReadonlySet<string>, budget: Budget): void {
    const isSame = budget.triangles === this.budget.triangles && budget.bytes === this.budget.bytes;
    this.budget = budget;
    if (hidden !== this.hidden) this.hide(hidden);
    else if (isSame) return;
    this.update(this.eye);
  }

  private hide(hidden: ReadonlySet<string>): void {
    this.hidden = hidden;
    for (const stack of this.stacks.values()) stack.mesh.visible = !hidden.has(stack.class);
    for (const lot of this.lots)
      for (const part of lot.parts) part.visible = lot.detailed.length > 0 && !hidden.has(lot.class);
    for (const mark of this.axes.children) mark.visible = !hidden.has(mark.name);
  }

  /** Chooses anew what is drawn as it is, from where somebody looks. */
  update(eye: Vector3): void {
    this.eye = eye.clone();
    const count = this.placements.length;
    const distances = distancesFrom(this.centres, eye);
    // Once for each lot, and not for each of tens of thousands of placements.
    const triangles = Float64Array.from(this.lots, (lot) => {
      if (!lot.path || this.hidden.has(lot.class)) return NaN;
      const known = this.models.get(lot.path);
      return known && 'reason' in known ? NaN : (this.map.costs[lot.path]?.triangles ?? 0);
    });
    const { lotOf } = this;
    const trianglesOf = (place: number): number => triangles[lotOf[place] ?? 0] ?? NaN;
    const chosen = nearFirst(this.radii, distances, trianglesOf, this.budget.triangles);
    this.isFull = this.budget.triangles > 0 && chosen.length < count;
    const byLot = new Map<Lot, number[]>();
    const wanted = new Set<string>();
    for (const place of chosen) {
      const lot = this.lots[this.lotOf[place] ?? 0];
      if (!lot?.path) continue;
      if (!this.models.get(lot.path)) {
        wanted.add(lot.path);
        continue;
      }
      const list = byLot.get(lot);
      if (list) list.push(place);
      else byLot.set(lot, [place]);
    }
    const other = new Set<Stack>();
    for (const lot of this.lots) if (this.exchange(lot, byLot.get(lot) ?? [])) other.add(lot.stack);
    for (const stack of other) this.refill(stack);
    this.models.want([...wanted], this.budget.bytes);
    this.tell();
    this.onChange();
  }

  /** The placement that a part of the scene stands for; null for none. */
  placementAt(object: Object3D, instance: number | undefined): Placement | null {
    if (instance === undefined) return null;
    for (const { mesh, boxed } of this.stacks.values())
      if (object === mesh) return this.placements[boxed[instance] ?? -1] ?? null;
    for (const { parts, detailed } of this.lots)
      if (parts.includes(object as InstancedMesh)) return this.placements[detailed[instance] ?? -1] ?? null;
    return null;
  }

  /** Around a placement. */
  boxOf(placement: Placement): Box3 {
    const at = this.placements.indexOf(placement);
    const matrix = this.matrices[at];
    return matrix ? this.ownBox(placement.model).clone().applyMatrix4(matrix) : unknown.clone();
  }

  close(): void {
    this.models.close();
    this.onChange = () => undefined;
    this.onState = () => undefined;
  }

  private lotFor(
    places: number[],
    at: number,
    {
      material,
      lacking,
      room,
    }: { material: MeshLambertMaterial; lacking: MeshLambertMaterial; room: MeshLambertMaterial },
  ): Lot {
    const { model, class: name } = this.placements[places[0] ?? 0] ?? { model: '', class: '' };
    const path = this.map.models[model] ?? null;
    const box = this.ownBox(model);
    const [size, middle] = [box.getSize(new Vector3()), box.getCenter(new Vector3())];
    // What is flat has a box, too.
    const within = new Matrix4().compose(
      middle,
      new Quaternion(),
      new Vector3(...size.toArray().map((side) => Math.max(side, 1e-3))),
    );
    const isRoom = path === null && (zones.test(name) || model === '');
    const look = isRoom ? room : path === null ? lacking : material;
    const key = `${name}\n${look.id}`;
    let stack = this.stacks.get(key);
    if (!stack) {
      const mesh = new InstancedMesh(this.cube, look, 0);
      mesh.frustumCulled = false;
      mesh.name = name;
      // What stands in a room is pointed at before the room.
      mesh.userData.isRoom = isRoom;
      stack = { class: name, mesh, lots: [], boxed: [] };
      this.stacks.set(key, stack);
    }
    const point = new Vector3();
    for (const place of places) {
      this.lotOf[place] = at;
      const matrix = this.matrices[place] ?? new Matrix4();
      this.boxMatrices[place] = new Matrix4().multiplyMatrices(matrix, within);
      point
        .copy(middle)
        .applyMatrix4(matrix)
        .toArray(this.centres, place * 3);
      this.radii[place] = (size.length() / 2) * matrix.getMaxScaleOnAxis();
    }
    const lot: Lot = { model, path, class: name, places, stack, parts: [], detailed: [], key: '' };
    stack.lots.push(lot);
    return lot;
  }

  /** Draws the boxes of all that is not drawn as it is. */
  private refill(stack: Stack): void {
    stack.boxed = stack.lots.flatMap(({ places, detailed }) => {
      if (detailed.length === 0) return places;
      const isDetailed = new Set(detailed);
      return places.filter((place) => !isDetailed.has(place));
    });
    fill(stack.mesh, stack.boxed, this.boxMatrices, null, this.around);
  }

  private ownBox(model: string): Box3 {
    const path = this.map.models[model];
    const bounds = path ? this.map.costs[path]?.bounds : null;
    return bounds ? new Box3(new Vector3(...bounds.min), new Vector3(...bounds.max)) : unknown;
  }

  /** Draws some of a lot's placements as they are. @returns whether these are others than before */
  private exchange(lot: Lot, detailed: readonly number[]): boolean {
    const loaded = lot.path === null ? undefined : this.models.get(lot.path);
    const chosen = loaded && 'scene' in loaded ? [...detailed].sort((a, b) => a - b) : [];
    const key = chosen.join();
    if (key === lot.key) return false;
    lot.key = key;
    if (loaded && 'scene' in loaded && lot.parts.length === 0) {
      const all = lot.places.map((place) => this.placements[place]).filter((one) => one !== undefined);
      lot.parts = instancesOf(loaded.scene, all);
      for (const part of lot.parts) {
        part.frustumCulled = false;
        this.scene.add(part);
      }
    }
    lot.detailed = chosen;
    for (const part of lot.parts) {
      // What draws nothing takes its time nevertheless.
      part.visible = chosen.length > 0 && !this.hidden.has(lot.class);
      fill(part, chosen, this.matrices, (part.userData.within as Matrix4 | undefined) ?? null, this.around);
    }
    return true;
  }

  private addAxes(): void {
    this.placements.forEach((placement, at) => {
      if (placement.locator === '' || this.axes.children.length >= mostAxes) return;
      const axes = new AxesHelper(Math.max(0.5, this.radii[at] ?? 0.5));
      axes.applyMatrix4(this.matrices[at] ?? new Matrix4());
      axes.name = placement.class;
      this.axes.add(axes);
    });
    // The edges of zones: where a room ends is seen through its own walls.
    for (const { path, class: name, places } of this.lots) {
      if (path !== null || !zones.test(name)) continue;
      const edges = new EdgesGeometry(new BoxGeometry().translate(0, 0.5, 0));
      const line = new LineBasicMaterial({ color: 0x666666 });
      for (const place of places.slice(0, mostAxes)) {
        const segments = new LineSegments(edges, line);
        segments.applyMatrix4(this.matrices[place] ?? new Matrix4());
        segments.name = name;
        this.axes.add(segments);
      }
    }
  }

  private tell(): void {
    const { bytes, failures, here: loaded, onTheWay: loading } = this.models;
    const detailed = this.lots.reduce((sum, lot) => sum + lot.detailed.length, 0);
    this.onState({ detailed, loaded, loading, bytes, failures, isFull: this.isFull });
  }
}
