import type { Node } from '@gltf-transform/core';
import type { TriangleBatch } from '../triangles.ts';
import { isClosed } from './closed.ts';
import { helperShapes, type Helper } from './helper-shapes.ts';

/** Those that players see: without shapes for collisions, shadows and the like, as the viewer has them at first. */
export function seenBatches(batches: readonly TriangleBatch[]): readonly TriangleBatch[] {
  const helpers = helpersAmong(batches);
  return batches.filter((_, at) => !helpers[at]);
}

/** What each of them is that players do not see; null for what they do. */
export function helpersAmong(batches: readonly TriangleBatch[]): (Helper | null)[] {
  return helperShapes(
    batches.map(({ node, primitive, material, positions, uvs, indices }) => ({
      name: node.getName() || node.getMesh()?.getName() || primitive.getName(),
      above: namesAbove(node),
      material: material?.getName() ?? '',
      hasUvs: uvs !== null,
      hasTexture: Boolean(material?.getBaseColorTexture()),
      triangles: indices.length / 3,
      isClosed: () => isClosed(positions, indices),
    })),
  );
}

function namesAbove(node: Node): string[] {
  const names: string[] = [];
  for (let above = node.getParentNode(); above; above = above.getParentNode())
    if (above.getName() !== '') names.unshift(above.getName());
  return names;
}
