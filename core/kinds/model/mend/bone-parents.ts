import type { Document, Node } from '@gltf-transform/core';
import { boneKey } from '../pose/bone-names.ts';
import { elements, numbersOf } from '../triangles.ts';

/**
 * What a bone that hangs on none may hang on: the bone whose name its own begins with (`hand_l_prop` on `hand_l`), else the one that
 * moves most of the vertices that it moves itself, else the nearest one.
 */
export function parentFor(joint: Node, joints: readonly Node[], document: Document): Node | null {
  const others = joints.filter((one) => one !== joint);
  return byName(joint, others) ?? byWeights(joint, document) ?? byPlace(joint, others);
}

function byName(joint: Node, others: readonly Node[]): Node | null {
  const name = boneKey(joint.getName());
  let best: Node | null = null;
  for (const other of others) {
    const key = boneKey(other.getName());
    const rest = name.slice(key.length);
    if (key.length < 2 || !name.startsWith(key) || !/^[._\-\s]/.test(rest)) continue;
    if (!best || key.length > boneKey(best.getName()).length) best = other;
  }
  return best;
}

function byWeights(joint: Node, document: Document): Node | null {
  const shared = new Map<Node, number>();
  for (const node of document.getRoot().listNodes()) {
    const bones = node.getSkin()?.listJoints() ?? [];
    const number = bones.indexOf(joint);
    if (number < 0) continue;
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
      const [joints, weights] = [primitive.getAttribute('JOINTS_0'), primitive.getAttribute('WEIGHTS_0')];
      if (!joints || !weights) continue;
      const [ofJoints, ofWeights] = [numbersOf(joints), elements(weights)];
      for (let at = 0; at < ofJoints.length; at += 4) {
        const own = [0, 1, 2, 3].find((slot) => ofJoints[at + slot] === number);
        const share = own === undefined ? 0 : (ofWeights[at + own] ?? 0);
        if (share <= 0) continue;
        for (let slot = 0; slot < 4; slot++) {
          const other = bones[ofJoints[at + slot] ?? 0];
          const weight = ofWeights[at + slot] ?? 0;
          if (other && other !== joint && weight > 0)
            shared.set(other, (shared.get(other) ?? 0) + Math.min(share, weight));
        }
      }
    }
  }
  return [...shared].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null;
}

function byPlace(joint: Node, others: readonly Node[]): Node | null {
  const [x, y, z] = joint.getWorldTranslation();
  let [best, nearest]: [Node | null, number] = [null, Infinity];
  for (const other of others) {
    const [ox, oy, oz] = other.getWorldTranslation();
    const distance = Math.hypot(ox - x, oy - y, oz - z);
    if (distance < nearest) [best, nearest] = [other, distance];
  }
  return best;
}
