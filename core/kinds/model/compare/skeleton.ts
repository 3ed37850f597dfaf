import type { Document, Node } from '@gltf-transform/core';
import type { ModelDetail } from '../../../../contract/comparisons.ts';

/** A bone is told by its name; it moved when it stands farther from where it stood than this, in metres. */
const movedMetres = 0.001;

/** Bones that came, went, moved, or hang on another one. */
export function compareBones(old: Document, now: Document): ModelDetail['bones'] {
  const before = bonesOf(old);
  const after = bonesOf(now);
  const added = [...after.keys()].filter((name) => !before.has(name));
  const gone = [...before.keys()].filter((name) => !after.has(name));
  const reparented: ModelDetail['bones']['reparented'] = [];
  const moved: ModelDetail['bones']['moved'] = [];
  for (const [bone, { parent, place }] of after) {
    const then = before.get(bone);
    if (!then) continue;
    if (then.parent !== parent) reparented.push({ bone, from: then.parent, to: parent });
    const metres = Math.hypot(place[0] - then.place[0], place[1] - then.place[1], place[2] - then.place[2]);
    if (metres > movedMetres) moved.push({ bone, metres });
  }
  moved.sort((a, b) => b.metres - a.metres || (a.bone < b.bone ? -1 : 1));
  return { added: added.sort(), gone: gone.sort(), reparented, moved };
}

/** Joints of all skins by name, with the name of the joint above; one without a name goes by its place among its sisters. */
function bonesOf(document: Document): Map<string, { parent: string; place: readonly [number, number, number] }> {
  const joints = new Set(document.getRoot().listSkins().flatMap((skin) => skin.listJoints()));
  const bones = new Map<string, { parent: string; place: readonly [number, number, number] }>();
  for (const joint of joints) {
    const parent = joint.getParentNode();
    bones.set(nameOf(joint), { parent: parent ? nameOf(parent) : '', place: joint.getWorldTranslation() });
  }
  return bones;
} // prettier-ignore

function nameOf(node: Node): string {
  if (node.getName() !== '') return node.getName();
  const parent = node.getParentNode();
  return parent ? `${nameOf(parent)}/${parent.listChildren().indexOf(node)}` : '0';
}
