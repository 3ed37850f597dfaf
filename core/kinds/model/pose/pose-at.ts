import type { Animation, AnimationChannel, AnimationSampler, Node, vec3, vec4 } from '@gltf-transform/core';
import { quat } from 'gl-matrix';

/**
 * Values of a sampler at a moment: stepped, linear (rotations along the great circle), or by cubic splines, and held before its
 * first and behind its last key (glTF 2.0, 3.11 and appendix C).
 * @returns nothing where it has no keys
 */
export function valuesAt(sampler: AnimationSampler, seconds: number, isRotation: boolean): number[] {
  const times = timesOf(sampler);
  const values = sampler.getOutput();
  const count = times.length;
  if (!values || count === 0) return [];
  const isCubic = sampler.getInterpolation() === 'CUBICSPLINE';
  const each = values.getCount() / count;
  /** Elements of a key: of splines the tangent before it, its value and the tangent behind it. */
  const at = (key: number, part: 0 | 1 | 2 = 1): number[] => {
    const found: number[] = [];
    const [first, width] = isCubic ? [key * each + (part * each) / 3, each / 3] : [key * each, each];
    for (let place = 0; place < width; place++) found.push(...values.getElement(first + place, []));
    return found;
  };
  let before = 0;
  let behind = count - 1;
  if (seconds <= (times[0] ?? 0)) return at(0);
  if (seconds >= (times[behind] ?? 0)) return at(behind);
  while (behind - before > 1) {
    const middle = (before + behind) >> 1;
    if ((times[middle] ?? 0) <= seconds) before = middle;
    else behind = middle;
  }
  const [from, to] = [times[before] ?? 0, times[behind] ?? 0];
  const span = to - from;
  const share = span > 0 ? (seconds - from) / span : 0;
  const [a, b] = [at(before), at(behind)];
  if (sampler.getInterpolation() === 'STEP') return a;
  if (isCubic) {
    const [out, into] = [at(before, 2), at(behind, 0)];
    const [t, t2, t3] = [share, share ** 2, share ** 3];
    const spline = a.map(
      (value, part) =>
        (2 * t3 - 3 * t2 + 1) * value +
        span * (t3 - 2 * t2 + t) * (out[part] ?? 0) +
        (-2 * t3 + 3 * t2) * (b[part] ?? 0) +
        span * (t3 - t2) * (into[part] ?? 0),
    );
    return isRotation ? [...quat.normalize(quat.create(), spline)] : spline;
  }
  if (isRotation) return [...quat.slerp(quat.create(), a, b, share)];
  return a.map((value, part) => value + ((b[part] ?? 0) - value) * share);
}

/**
 * Puts the nodes of a document where a clip has them at a moment.
 * @returns what puts them back
 */
export function poseAt(animation: Animation, seconds: number): () => void {
  const rest = new Map<Node, { translation: vec3; rotation: vec4; scale: vec3; weights: number[] }>();
  for (const channel of animation.listChannels()) {
    const [node, sampler] = [channel.getTargetNode(), channel.getSampler()];
    if (!node || !sampler) continue;
    if (!rest.has(node))
      rest.set(node, {
        ...{ translation: node.getTranslation(), rotation: node.getRotation(), scale: node.getScale() },
        weights: node.getWeights(),
      });
    put(node, channel, valuesAt(sampler, seconds, channel.getTargetPath() === 'rotation'));
  }
  return () => {
    for (const [node, { translation, rotation, scale, weights }] of rest)
      node.setTranslation(translation).setRotation(rotation).setScale(scale).setWeights(weights);
  };
}

function put(node: Node, channel: AnimationChannel, values: number[]): void {
  if (values.length === 0) return;
  switch (channel.getTargetPath()) {
    case 'translation':
      node.setTranslation(values as vec3);
      break;
    case 'rotation':
      node.setRotation(values as vec4);
      break;
    case 'scale':
      node.setScale(values as vec3);
      break;
    case 'weights':
      node.setWeights(values);
      break;
    case null:
      break;
  }
}

/** Moments of the keys, in seconds. */
function timesOf(sampler: AnimationSampler): ArrayLike<number> {
  return (sampler.getInput()?.getArray() ?? []) as ArrayLike<number>;
}

/** First and last moment of a clip that has keys. */
export function spanOfClip(animation: Animation): { first: number; last: number } {
  let [first, last] = [Infinity, -Infinity];
  for (const sampler of animation.listSamplers()) {
    const times = timesOf(sampler);
    if (times.length === 0) continue;
    first = Math.min(first, times[0] ?? 0);
    last = Math.max(last, times[times.length - 1] ?? 0);
  }
  return last >= first ? { first, last } : { first: 0, last: 0 };
}
