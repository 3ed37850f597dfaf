import type { Document } from '@gltf-transform/core';

/** Names of bones that belong together: those of a model, or those that clips of one file move. */
export interface NamedBones {
  /** Names of the clips that move all of these and no others; null for the bones that a model has. */
  clips: readonly string[] | null;
  names: readonly string[];
}

/** A scene of more nodes than these is no skeleton. */
const mostNames = 4096;

/**
 * What a bone is known by, in whatever file it stands: its name without case, and without a namespace before a colon or a
 * bar, as exporters write them (common practice, no published source).
 */
export function boneKey(name: string): string {
  return name.slice(Math.max(name.lastIndexOf(':'), name.lastIndexOf('|')) + 1).toLowerCase();
}

/** Bones of a model with what they hang on, or all its nodes where it has no bones; and what its clips move. */
export function namedBonesOf(document: Document): NamedBones[] {
  const root = document.getRoot();
  const joints = root.listSkins().flatMap((skin) => skin.listJoints());
  const hasShape = root.listMeshes().length > 0;
  const own = new Set<string>();
  const nodes = joints.length > 0 ? joints : hasShape ? root.listNodes() : [];
  for (const joint of nodes)
    for (let node: typeof joint | null = joint; node; node = node.getParentNode()) {
      // Some writers say that a name is null.
      const name = node.getName() as string | null;
      if (name) own.add(name);
    }
  const found: NamedBones[] = [];
  if (own.size > 0 && own.size <= mostNames) found.push({ clips: null, names: [...own].sort() });
  const moved = new Map<string, { clips: string[]; names: string[] }>();
  root.listAnimations().forEach((animation, at) => {
    const names = [
      ...new Set(animation.listChannels().flatMap((channel) => channel.getTargetNode()?.getName() || [])),
    ].sort();
    if (names.length === 0 || names.length > mostNames) return;
    const key = names.join('\n');
    const clip = animation.getName() || `clip ${at + 1}`;
    const known = moved.get(key);
    if (known) known.clips.push(clip);
    else moved.set(key, { clips: [clip], names });
  });
  return [...found, ...moved.values()];
}

/** How the bones that a clip moves and those that a model has go together. */
export interface BoneMatch {
  /** Bones of the clip that the model has. */
  matched: number;
  /** Those that it has not, by their names in the clip. */
  lacking: string[];
}

/** @param has keys of the model's bones */
export function matchBones(moved: readonly string[], has: ReadonlySet<string>): BoneMatch {
  const lacking = moved.filter((name) => !has.has(boneKey(name)));
  return { matched: moved.length - lacking.length, lacking };
}
