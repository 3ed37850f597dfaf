import {
  Interpolant,
  Mesh,
  PropertyBinding,
  type AnimationClip,
  type KeyframeTrack,
  type Object3D,
} from 'three';
import { boneKey } from '../../../core/kinds/model/pose/bone-names.ts';
import { layOver, type Move } from '../../../core/kinds/model/pose/lay-over.ts';
import { nodeName } from './node-name.ts';

/** What one track of a clip moves of a model. */
export interface MovingTrack {
  target: Object3D;
  /** Null for shapes that a part is blended between. */
  move: Move | null;
  /** Values at a moment in seconds. */
  at: (seconds: number) => ArrayLike<number>;
}

const moveOf: Readonly<Record<string, Move | null>> = {
  position: 'position',
  quaternion: 'rotation',
  scale: 'scale',
  morphTargetInfluences: null,
};

/** Tracks of a clip of the model's own file. Those of nodes that are not there move nothing. */
export function ownTracks(clip: AnimationClip, model: Object3D): MovingTrack[] {
  return clip.tracks.flatMap((track) => {
    const { node, property } = partsOfName(track);
    const target = PropertyBinding.findNode(model, node) as Object3D | null;
    return target ? movingTrack(track, target, property) : [];
  });
}

/**
 * Tracks of a clip of another file, on those bones of the model that are called as there.
 * @param scene that the clip belongs to
 * @returns `lacking`: names of bones that it moves, and that the model has not
 */
export function foreignTracks(
  clip: AnimationClip,
  scene: Object3D,
  model: Object3D,
): { tracks: MovingTrack[]; lacking: string[] } {
  const targets = new Map<string, Object3D>();
  model.traverse((object) => {
    const key = boneKey(nodeName(object));
    const known = targets.get(key);
    // A bone goes before a part that is called the same.
    if (key !== '' && (!known || (object.type === 'Bone' && known.type !== 'Bone'))) targets.set(key, object);
  });
  const lacking = new Set<string>();
  const tracks = clip.tracks.flatMap((track) => {
    const { node, property } = partsOfName(track);
    const source = PropertyBinding.findNode(scene, node) as Object3D | null;
    const name = source ? nodeName(source) : node;
    const target = targets.get(boneKey(name));
    if (!target) lacking.add(name);
    return target ? movingTrack(track, target, property) : [];
  });
  return { tracks, lacking: [...lacking].sort() };
}

/** What a track moves as it is now; changed by whoever holds it, and put back by `give`. */
export function valuesOf({ target, move }: Pick<MovingTrack, 'target' | 'move'>): number[] {
  switch (move) {
    case 'position':
      return target.position.toArray();
    case 'rotation':
      return target.quaternion.toArray();
    case 'scale':
      return target.scale.toArray();
    default:
      return [...(target instanceof Mesh ? (target.morphTargetInfluences ?? []) : [])];
  }
}

export function give(
  { target, move }: Pick<MovingTrack, 'target' | 'move'>,
  values: readonly number[],
): void {
  switch (move) {
    case 'position':
      target.position.fromArray(values);
      break;
    case 'rotation':
      target.quaternion.fromArray(values);
      break;
    case 'scale':
      target.scale.fromArray(values);
      break;
    default:
      // In place: what is drawn over a part follows the same list.
      if (target instanceof Mesh) target.morphTargetInfluences?.splice(0, values.length, ...values);
  }
}

/** Lays a track's values at a moment over what its target is like. */
export function layTrack(track: MovingTrack, seconds: number, weight: number): void {
  const values = valuesOf(track);
  layOver(values, track.at(seconds), weight, track.move === 'rotation');
  give(track, values);
}

function movingTrack(track: KeyframeTrack, target: Object3D, property: string): MovingTrack[] {
  const move = moveOf[property];
  if (move === undefined) return [];
  // The library's own types do not have it.
  const made = (track as KeyframeTrack & { createInterpolant: () => Interpolant }).createInterpolant();
  return [{ target, move, at: (seconds) => made.evaluate(seconds) }];
}

function partsOfName({ name }: KeyframeTrack): { node: string; property: string } {
  const at = name.lastIndexOf('.');
  return { node: name.slice(0, at), property: name.slice(at + 1) };
}
