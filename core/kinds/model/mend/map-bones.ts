import type { Document, Node } from '@gltf-transform/core';
import { boneKey } from '../pose/bone-names.ts';

export interface BoneMap {
  /** Bones of the source with bones of the target; each of either once. */
  pairs: [source: Node, target: Node][];
  /** Bones that clips of the source move and that have no counterpart. */
  lacking: string[];
}

const sides: Readonly<Record<string, string>> = { left: 'l', lft: 'l', right: 'r', rgt: 'r' };

/**
 * Which bone of one skeleton is which of another: as people said, then by name, then by the words of names in whatever order
 * (`LeftHand` and `hand_l`), then by hierarchy, where one bone alone is left below a pair.
 */
export function mapBones(source: Document, target: Document, said: ReadonlyMap<string, string>): BoneMap {
  const [from, to] = [bonesOf(source), bonesOf(target)];
  const pairs = new Map<Node, Node>();
  const taken = new Set<Node>();
  const add = (one: Node, other: Node | undefined): void => {
    if (!other || pairs.has(one) || taken.has(other)) return;
    pairs.set(one, other);
    taken.add(other);
  };
  for (const bone of from) {
    const wanted = said.get(bone.getName());
    if (wanted !== undefined)
      add(
        bone,
        to.find((other) => other.getName() === wanted),
      );
  }
  for (const keyOf of [(bone: Node) => boneKey(bone.getName()), (bone: Node) => wordsOf(bone.getName())]) {
    const byKey = new Map<string, Node[]>();
    for (const bone of to) byKey.set(keyOf(bone), [...(byKey.get(keyOf(bone)) ?? []), bone]);
    const count = new Map<string, number>();
    for (const bone of from) count.set(keyOf(bone), (count.get(keyOf(bone)) ?? 0) + 1);
    for (const bone of from) {
      const key = keyOf(bone);
      const others = byKey.get(key) ?? [];
      // Two of one name would be a guess.
      if (key !== '' && others.length === 1 && count.get(key) === 1 && !said.has(bone.getName()))
        add(bone, others[0]);
    }
  }
  const [isFrom, isTo] = [new Set(from), new Set(to)];
  for (const [one, other] of pairs) {
    const left = one.listChildren().filter((child) => isFrom.has(child) && !pairs.has(child));
    const right = other.listChildren().filter((child) => isTo.has(child) && !taken.has(child));
    // A map grows while it is gone through: chains are followed to their ends.
    if (left.length === 1 && right.length === 1 && left[0]) add(left[0], right[0]);
  }
  const moved = new Set(
    source
      .getRoot()
      .listAnimations()
      .flatMap((animation) => animation.listChannels().flatMap((channel) => channel.getTargetNode() ?? [])),
  );
  return {
    pairs: [...pairs],
    lacking: [...moved].filter((bone) => !pairs.has(bone)).map((bone) => `“${bone.getName()}”`),
  };
}

/** Bones of skins, and what clips move; where there are neither, all nodes. */
function bonesOf(document: Document): Node[] {
  const root = document.getRoot();
  const bones = new Set(root.listSkins().flatMap((skin) => skin.listJoints()));
  for (const animation of root.listAnimations())
    for (const channel of animation.listChannels()) {
      const node = channel.getTargetNode();
      if (node) bones.add(node);
    }
  return bones.size > 0 ? [...bones] : root.listNodes();
}

function wordsOf(name: string): string {
  return boneKey(name.replace(/([a-z])([A-Z])/g, '$1_$2'))
    .split(/[^a-z0-9]+/)
    .filter(Boolean)
    .map((word) => sides[word] ?? word)
    .sort()
    .join(' ');
}
