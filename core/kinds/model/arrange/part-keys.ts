import type { Document, Node, Primitive } from '@gltf-transform/core';

/** What somebody calls a part in a set-up: the primitive, and the node that it stands on. */
export interface KeyedPart {
  node: Node;
  primitive: Primitive;
  /** Whether the node has no other part, so that it can be moved as a whole. */
  isAlone: boolean;
}

/**
 * Parts by their keys: names of what they hang on, then their own, with `/`, as the viewer has them. Where a node has several parts,
 * each is called as the mesh, with a number from the second on.
 */
export function partsByKey(document: Document): Map<string, KeyedPart[]> {
  const found = new Map<string, KeyedPart[]>();
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  const walk = (node: Node, above: readonly string[]): void => {
    const primitives = node.getMesh()?.listPrimitives() ?? [];
    const name = node.getName();
    const below = name === '' ? above : [...above, name];
    primitives.forEach((primitive, at) => {
      const mesh = node.getMesh()?.getName() ?? '';
      const isAlone = primitives.length === 1;
      const own = isAlone ? name || (above.at(-1) ?? '') : at === 0 ? mesh : `${mesh}_${at}`;
      const key = [...(isAlone ? above : below).filter((one) => one !== own), own].join('/');
      const known = found.get(key);
      if (known) known.push({ node, primitive, isAlone });
      else found.set(key, [{ node, primitive, isAlone }]);
    });
    for (const child of node.listChildren()) walk(child, below);
  };
  const root = scene?.getName() ?? '';
  for (const node of scene?.listChildren() ?? []) walk(node, root === '' ? [] : [root]);
  return found;
}
