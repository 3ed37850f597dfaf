import type { Animation, Document, Node, vec3, vec4 } from '@gltf-transform/core';
import { mat4, quat, vec3 as vectors } from 'gl-matrix';
import { plural } from '../../../figures.ts';
import { addTrack } from '../pose/add-track.ts';
import { poseAt, spanOfClip } from '../pose/pose-at.ts';
import { mapBones } from './map-bones.ts';

/** Moments at which poses are compared. */
const comparedMoments = 10;
const mostKeys = 20_000;
const listed = 6;
/** A place that moves less than this share of the skeleton's size stands still. */
const stillShare = 1e-6;

interface Pair {
  bone: Node;
  from: Node;
}

/** A bone as it is at rest. */
interface Rest {
  world: quat;
  place: vectors;
  translation: vec3;
  rotation: vec4;
}

/**
 * Carries the clips of one document over to the skeleton of another: each bone turns in the world as its counterpart does, away from
 * its own rest; places move by as much, in proportion to the skeletons' sizes. Bones without a counterpart stay as they are on what
 * they hang on.
 * @param target gets the clips; its own stay
 * @param said bones of `source` with bones of `target`, where people know better than names do
 * @param rate keys to a second; 0 for the moments that the clip has keys at
 * @returns what was done, in words
 */
export function carryClips(
  target: Document,
  source: Document,
  said: ReadonlyMap<string, string>,
  rate = 0,
): string[] {
  const notes: string[] = [];
  const { pairs, lacking } = mapBones(source, target, said);
  if (pairs.length === 0)
    return ['no bone of the clip has a counterpart in that model: no clip was carried over'];
  const ordered = pairs
    .map(([from, bone]): Pair => ({ from, bone }))
    .sort((a, b) => depthOf(a.bone) - depthOf(b.bone));
  const scale = sizeOf(ordered.map(({ bone }) => bone)) / (sizeOf(ordered.map(({ from }) => from)) || 1) || 1;
  notes.push(
    `${plural(ordered.length, 'bone')} have a counterpart${lacking.length > 0 ? `, ${lacking.length} of the clip have none: ${lacking.slice(0, listed).join(', ')}${lacking.length > listed ? ' …' : ''}` : ''}`,
  );
  let deviation = 0;
  for (const animation of source.getRoot().listAnimations()) {
    const times = timesOf(animation, rate);
    if (times.length === 0) continue;
    const { clip, rests } = carried(target, animation, ordered, times, scale);
    deviation = Math.max(deviation, deviationOf(animation, clip, ordered, rests, scale));
  }
  const size = sizeOf(ordered.map(({ bone }) => bone));
  notes.push(
    `greatest deviation of pose ${deviation.toPrecision(2)} m (${((deviation / (size || 1)) * 100).toPrecision(2)} % of the skeleton)${Math.abs(scale - 1) > 0.001 ? `, places brought to ${scale.toPrecision(3)} of what they were` : ''}`,
  );
  return notes;
}

function depthOf(node: Node): number {
  let depth = 0;
  for (let above = node.getParentNode(); above; above = above.getParentNode()) depth++;
  return depth;
}

/** The longest side of the box around bones at rest. */
function sizeOf(bones: readonly Node[]): number {
  const places = bones.map((bone) => bone.getWorldTranslation());
  return Math.max(
    0,
    ...[0, 1, 2].map((axis) => {
      const values = places.map((place) => place[axis] ?? 0);
      return Math.max(...values) - Math.min(...values);
    }),
  );
}

function timesOf(animation: Animation, rate: number): number[] {
  const { first, last } = spanOfClip(animation);
  if (rate > 0) {
    const count = Math.min(mostKeys, Math.round((last - first) * rate));
    return Array.from({ length: count + 1 }, (_, at) =>
      count === 0 ? first : first + ((last - first) * at) / count,
    );
  }
  const times = new Set<number>();
  for (const sampler of animation.listSamplers())
    for (const time of [...((sampler.getInput()?.getArray() ?? []) as Iterable<number>)])
      if (times.size < mostKeys) times.add(time);
  return [...times].sort((a, b) => a - b);
}

function restOf(node: Node): Rest {
  return {
    world: worldTurn(node),
    place: [...node.getWorldTranslation()] as vectors,
    translation: node.getTranslation(),
    rotation: node.getRotation(),
  };
}

function worldTurn(node: Node): quat {
  return quat.normalize(quat.create(), node.getWorldRotation());
}

function carried(
  target: Document,
  animation: Animation,
  pairs: readonly Pair[],
  times: readonly number[],
  scale: number,
): { clip: Animation; rests: Map<Node, Rest> } {
  const rests = new Map(pairs.flatMap(({ bone, from }) => [bone, from]).map((node) => [node, restOf(node)]));
  const rotations = new Map(pairs.map(({ bone }) => [bone, new Float32Array(times.length * 4)]));
  const moving = pairs.filter(({ from, bone }) => isMoved(animation, from) || !hasPairAbove(bone, pairs));
  const translations = new Map(moving.map(({ bone }) => [bone, new Float32Array(times.length * 3)]));
  times.forEach((time, key) => {
    const back = poseAt(animation, time);
    const turns = new Map(pairs.map(({ from }) => [from, worldTurn(from)]));
    const places = new Map(pairs.map(({ from }) => [from, [...from.getWorldTranslation()] as vectors]));
    const locals = new Map(pairs.map(({ from }) => [from, from.getTranslation()]));
    back();
    for (const { bone, from } of pairs) {
      const [own, other] = [rests.get(bone) as Rest, rests.get(from) as Rest];
      // Away from rest as the counterpart is, in the world.
      const turn = quat.multiply(
        quat.create(),
        turns.get(from) as quat,
        quat.invert(quat.create(), other.world) ?? quat.create(),
      );
      const world = quat.multiply(quat.create(), turn, own.world);
      const above = bone.getParentNode();
      const local = above
        ? quat.multiply(quat.create(), quat.invert(quat.create(), worldTurn(above)) ?? quat.create(), world)
        : world;
      quat.normalize(local, local);
      rotations.get(bone)?.set(local, key * 4);
      bone.setRotation([...local] as vec4);
      const moves = translations.get(bone);
      if (!moves) continue;
      moves.set(
        hasPairAbove(bone, pairs)
          ? shifted(own, other, locals.get(from) as vec3, bone, from, scale, rests)
          : placed(bone, own, other, places.get(from) as vectors, scale),
        key * 3,
      );
      bone.setTranslation([...moves.subarray(key * 3, key * 3 + 3)] as vec3);
    }
    for (const { bone } of pairs) {
      const { translation, rotation } = rests.get(bone) as Rest;
      bone.setTranslation(translation).setRotation(rotation);
    }
  });
  return { clip: written(target, animation.getName(), times, rotations, translations, rests), rests };
}

function isMoved(animation: Animation, node: Node): boolean {
  return animation
    .listChannels()
    .some((channel) => channel.getTargetNode() === node && channel.getTargetPath() === 'translation');
}

function hasPairAbove(bone: Node, pairs: readonly Pair[]): boolean {
  for (let above = bone.getParentNode(); above; above = above.getParentNode())
    if (pairs.some((pair) => pair.bone === above)) return true;
  return false;
}

/** Where the topmost bone is in its parent's space, moved in the world as its counterpart is. */
function placed(bone: Node, own: Rest, other: Rest, place: vectors, scale: number): vectors {
  const world = vectors.scaleAndAdd(
    vectors.create(),
    own.place,
    vectors.subtract(vectors.create(), place, other.place),
    scale,
  );
  const above = bone.getParentNode();
  if (!above) return world;
  const back = mat4.invert(mat4.create(), above.getWorldMatrix()) ?? mat4.create();
  return vectors.transformMat4(vectors.create(), world, back);
}

/** How a bone below others is shifted in its parent's space: as its counterpart is in the space of its own. */
function shifted(
  own: Rest,
  other: Rest,
  now: vec3,
  bone: Node,
  from: Node,
  scale: number,
  rests: ReadonlyMap<Node, Rest>,
): vectors {
  const shift = vectors.subtract(vectors.create(), now, other.translation);
  const turnAbove = (node: Node): quat => {
    const above = node.getParentNode();
    return above ? (rests.get(above)?.world ?? worldTurn(above)) : quat.create();
  };
  const turn = quat.multiply(
    quat.create(),
    quat.invert(quat.create(), turnAbove(bone)) ?? quat.create(),
    turnAbove(from),
  );
  return vectors.scaleAndAdd(
    vectors.create(),
    own.translation,
    vectors.transformQuat(vectors.create(), shift, turn),
    scale,
  );
}

function written(
  target: Document,
  name: string,
  times: readonly number[],
  rotations: ReadonlyMap<Node, Float32Array>,
  translations: ReadonlyMap<Node, Float32Array>,
  rests: ReadonlyMap<Node, Rest>,
): Animation {
  const buffer = target.getRoot().listBuffers()[0] ?? null;
  const clip = target.createAnimation(name);
  const input = target.createAccessor().setType('SCALAR').setArray(new Float32Array(times)).setBuffer(buffer);
  const add = (bone: Node, path: 'rotation' | 'translation', values: Float32Array): void =>
    addTrack(target, clip, bone, path, input, values);
  for (const [bone, values] of rotations) add(bone, 'rotation', alongOneSide(values));
  const size = sizeOf([...rotations.keys()]) || 1;
  for (const [bone, values] of translations) {
    const rest = rests.get(bone)?.translation ?? [0, 0, 0];
    // What stands still at rest needs no keys.
    if (values.some((value, at) => Math.abs(value - (rest[at % 3] ?? 0)) > size * stillShare))
      add(bone, 'translation', values);
  }
  return clip;
}

/** A turn and its negative are one: neighbours are on one side, so that what is between them goes the short way. */
function alongOneSide(values: Float32Array): Float32Array {
  for (let at = 4; at < values.length; at += 4) {
    let dot = 0;
    for (let k = 0; k < 4; k++) dot += (values[at + k] ?? 0) * (values[at - 4 + k] ?? 0);
    if (dot < 0) for (let k = 0; k < 4; k++) values[at + k] = -(values[at + k] ?? 0);
  }
  return values;
}

/** How far bones are from where their counterparts are, both seen from where they are at rest, in metres of the target. */
function deviationOf(
  animation: Animation,
  clip: Animation,
  pairs: readonly Pair[],
  rests: ReadonlyMap<Node, Rest>,
  scale: number,
): number {
  const { first, last } = spanOfClip(animation);
  let greatest = 0;
  for (let moment = 0; moment < comparedMoments; moment++) {
    const time = first + ((last - first) * moment) / (comparedMoments - 1);
    const backs = [poseAt(animation, time), poseAt(clip, time)];
    for (const { bone, from } of pairs) {
      const [own, other] = [rests.get(bone) as Rest, rests.get(from) as Rest];
      const [here, there] = [bone.getWorldTranslation(), from.getWorldTranslation()];
      const off = [0, 1, 2].map(
        (axis) =>
          (here[axis] ?? 0) -
          (own.place[axis] ?? 0) -
          ((there[axis] ?? 0) - (other.place[axis] ?? 0)) * scale,
      );
      greatest = Math.max(greatest, Math.hypot(...off));
    }
    for (const back of backs) back();
  }
  return greatest;
}
