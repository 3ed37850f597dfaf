import type { Node } from '@gltf-transform/core';
import type { TriangleBatch } from '../triangles.ts';
import { isClosed } from './closed.ts';
import { helperShapes } from './helper-shapes.ts';

/** More triangles in all are not looked through for closed shapes. */
const mostLookedThrough = 200_000;

/** Those that players see: without shapes for collisions, shadows and the like, as the viewer has them at first. */
export function seenBatches(batches: readonly TriangleBatch[]): readonly TriangleBatch[] {
  const dressings = batches.map(({ uvs, material }) => ({
    hasUvs: uvs !== null,
    hasTexture: Boolean(material?.getBaseColorTexture()),
  }));
  let left = dressings.some(({ hasUvs, hasTexture }) => hasUvs && hasTexture) ? mostLookedThrough : 0;
  const helpers = helperShapes(
    batches.map(({ node, primitive, material, positions, indices }, at) => {
      const dressing = dressings[at] ?? { hasUvs: true, hasTexture: true };
      const triangles = indices.length / 3;
      const isLookedThrough = !dressing.hasUvs && !dressing.hasTexture && triangles <= left;
      if (isLookedThrough) left -= triangles;
      return {
        ...dressing,
        name: node.getName() || node.getMesh()?.getName() || primitive.getName(),
        above: namesAbove(node),
        material: material?.getName() ?? '',
        triangles,
        isClosed: isLookedThrough && isClosed(positions, indices),
      };
    }),
  );
  return batches.filter((_, at) => !helpers[at]);
}

function namesAbove(node: Node): string[] {
  const names: string[] = [];
  for (let above = node.getParentNode(); above; above = above.getParentNode())
    if (above.getName() !== '') names.unshift(above.getName());
  return names;
}
