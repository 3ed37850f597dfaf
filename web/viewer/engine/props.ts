import { Group, MathUtils, type Object3D } from 'three';
import { clone } from 'three/examples/jsm/utils/SkeletonUtils.js';
import { boneKey } from '../../../core/kinds/model/pose/bone-names.ts';
import { loadModel } from './load-model.ts';
import { partsOf } from './model-parts.ts';
import { nodeName } from './node-name.ts';

/** Another model that hangs on a bone or a locator. */
export interface PlacedProp {
  /** Where it is loaded from. */
  address: string;
  /** Name of what it hangs on; empty for the model as a whole. */
  on: string;
  /** Metres, in the axes of what it hangs on. */
  place: readonly [number, number, number];
  /** About x, then y, then z. */
  turnDegrees: readonly [number, number, number];
  scale: number;
}

/** What hangs on a model: each file is loaded once, however often it hangs. */
export class Props {
  private readonly files = new Map<string, Promise<Object3D>>();
  private hanging: Group[] = [];
  private turn = 0;

  /**
   * Hangs these on the model, and nothing else.
   * @returns why one could not be hung, by its place in the list; null of the others
   */
  async set(model: Object3D, props: readonly PlacedProp[]): Promise<(string | null)[]> {
    const turn = ++this.turn;
    const loaded = await Promise.all(
      props.map(({ address }) => this.load(address).catch((error: unknown) => reasonOf(error))),
    );
    // Others were asked for meanwhile.
    if (turn !== this.turn) return props.map(() => null);
    this.takeDown();
    return props.map((prop, at) => {
      const scene = loaded[at];
      if (scene === undefined || typeof scene === 'string') return scene ?? null;
      const on = prop.on === '' ? model : nodeCalled(model, prop.on);
      if (!on) return `the model has nothing that is called ${prop.on}`;
      const holder = new Group();
      holder.position.fromArray(prop.place);
      holder.rotation.set(...(prop.turnDegrees.map(MathUtils.degToRad) as [number, number, number]), 'XYZ');
      holder.scale.setScalar(prop.scale);
      holder.add(clone(scene));
      on.add(holder);
      this.hanging.push(holder);
      return null;
    });
  }

  takeDown(): void {
    for (const holder of this.hanging) holder.removeFromParent();
    this.hanging = [];
  }

  /** Forgets what was loaded: the model that it hung on is gone. */
  clear(): void {
    this.turn++;
    this.takeDown();
    this.files.clear();
  }

  private load(address: string): Promise<Object3D> {
    const known = this.files.get(address);
    if (known) return known;
    const loading = loadModel(address).then(({ scene }) => {
      // What players do not see of a model they do not see of one in a hand, either.
      for (const { mesh, entry } of partsOf(scene)) if (entry.helper) mesh.visible = false;
      return scene;
    });
    this.files.set(address, loading);
    return loading;
  }
}

/** A bone before whatever else is called so. */
export function nodeCalled(model: Object3D, name: string): Object3D | null {
  const key = boneKey(name);
  let found: Object3D | null = null;
  model.traverse((object) => {
    if (boneKey(nodeName(object)) !== key) return;
    if (!found || (object.type === 'Bone' && found.type !== 'Bone')) found = object;
  });
  return found;
}

function reasonOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
