import type { Animation, Document, Node } from '@gltf-transform/core';
import { plural } from '../../../figures.ts';
import { elements } from '../triangles.ts';

/**
 * Leaves in the tree only what its format allows and says (glTF 2.0, 3.5 and 3.11): skinned shapes hang on the scene itself, for
 * nothing above moves them, and clips have channels whose times go on.
 * @returns what was done, in words
 */
export function mendTree(document: Document): string[] {
  const root = document.getRoot();
  for (const node of root.listNodes()) hangOnScene(document, node);
  let dropped = 0;
  for (const animation of root.listAnimations()) {
    dropped += dropBrokenChannels(animation);
    if (animation.listChannels().length === 0) animation.dispose();
  }
  return dropped > 0
    ? [`${plural(dropped, 'channel')} of clips without a time, or for what another one moves, left out`]
    : [];
}

function hangOnScene(document: Document, node: Node): void {
  const [mesh, skin] = [node.getMesh(), node.getSkin()];
  if (!mesh || !skin) return;
  const isPlain =
    [...node.getTranslation(), ...node.getRotation().slice(0, 3)].every((value) => value === 0) &&
    node.getScale().every((value) => value === 1);
  if (node.getParentNode() === null && isPlain) return;
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  if (!scene) return;
  const isAlone =
    node.listChildren().length === 0 &&
    !skin.listJoints().includes(node) &&
    !node.getCamera() &&
    node.listExtensions().length === 0;
  const isMoved = document
    .getRoot()
    .listAnimations()
    .some((animation) =>
      animation
        .listChannels()
        .some((channel) => channel.getTargetNode() === node && channel.getTargetPath() !== 'weights'),
    );
  if (isAlone && !isMoved) {
    scene.addChild(node.setTranslation([0, 0, 0]).setRotation([0, 0, 0, 1]).setScale([1, 1, 1]));
    return;
  }
  scene.addChild(document.createNode(node.getName()).setMesh(mesh).setSkin(skin));
  node.setMesh(null).setSkin(null);
}

function dropBrokenChannels(animation: Animation): number {
  let dropped = 0;
  const known = new Map<unknown, boolean>();
  const moved = new Map<Node, Set<string | null>>();
  for (const channel of animation.listChannels()) {
    const input = channel.getSampler()?.getInput();
    const isBroken = known.get(input) ?? (!input || !goesOn(elements(input)));
    known.set(input, isBroken);
    const node = channel.getTargetNode();
    // One channel for one thing: the first.
    const paths = (node && moved.get(node)) ?? new Set();
    const isDouble = paths.has(channel.getTargetPath());
    if (!isBroken && node && !isDouble) {
      moved.set(node, paths.add(channel.getTargetPath()));
      continue;
    }
    channel.dispose();
    dropped++;
  }
  const used = new Set(animation.listChannels().map((channel) => channel.getSampler()));
  for (const sampler of animation.listSamplers()) if (!used.has(sampler)) sampler.dispose();
  return dropped;
}

function goesOn(times: Float32Array): boolean {
  return (
    times.length > 0 &&
    times.every((time, at) => Number.isFinite(time) && (at === 0 || time > (times[at - 1] ?? 0)))
  );
}
