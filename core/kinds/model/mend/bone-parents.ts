import type { Document, Node, mat4 } from '@gltf-transform/core';
import { mat4 as matrices } from 'gl-matrix';
import { boneKey } from '../pose/bone-names.ts';
import { elements, numbersOf } from '../triangles.ts';

/**
 * Bones that hang on none and carry none get a parent.
 * @param said bones with the bones that they are to hang on, as people have it
 * @returns what was done and what could not be done, in words
 */
export function hangOnBones(document: Document, said: ReadonlyMap<string, string>): string[] {
  const joints = [
    ...new Set(
      document
        .getRoot()
        .listSkins()
        .flatMap((skin) => skin.listJoints()),
    ),
  ];
  const isJoint = new Set(joints);
  const notes: string[] = [];
  const moved = new Set(
    document
      .getRoot()
      .listAnimations()
      .flatMap((animation) => animation.listChannels().map((channel) => channel.getTargetNode())),
  );
  for (const joint of joints) {
    const isAlone =
      !hasJointAbove(joint, isJoint) && !joint.listChildren().some((child) => isJoint.has(child));
    const wanted = said.get(joint.getName());
    if (wanted === undefined && (!isAlone || joints.length < 2)) continue;
    const parent =
      wanted === undefined
        ? parentFor(joint, joints, document)
        : joints.find((one) => one.getName() === wanted);
    if (!parent || parent === joint || isBelow(parent, joint)) {
      notes.push(
        wanted === undefined
          ? `“${joint.getName()}” hangs on no bone, and none was found for it`
          : `“${joint.getName()}” cannot hang on “${wanted}”`,
      );
      continue;
    }
    if (moved.has(joint) && joint.getParentNode()) {
      notes.push(`“${joint.getName()}” is moved by clips where it is, and stays there`);
      continue;
    }
    const back = matrices.invert(matrices.create(), parent.getWorldMatrix()) ?? matrices.create();
    const local = matrices.multiply(matrices.create(), back, joint.getWorldMatrix());
    joint.setMatrix([...local] as unknown as mat4);
    parent.addChild(joint);
    notes.push(`“${joint.getName()}” hung on “${parent.getName()}”`);
  }
  return notes;
}

export function hasJointAbove(node: Node, isJoint: ReadonlySet<Node>): boolean {
  for (let above = node.getParentNode(); above; above = above.getParentNode())
    if (isJoint.has(above)) return true;
  return false;
}

function isBelow(node: Node, other: Node): boolean {
  for (let above: Node | null = node; above; above = above.getParentNode()) if (above === other) return true;
  return false;
}

/**
 * What a bone that hangs on none may hang on: the bone whose name its own begins with (`hand_l_prop` on `hand_l`), else the one that
 * moves most of the vertices that it moves itself, else the nearest one.
 */
function parentFor(joint: Node, joints: readonly Node[], document: Document): Node | null {
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
