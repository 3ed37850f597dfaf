import type { MapScene } from '../../../../contract/assets.ts';
import type { GroundExtent } from './height-field.ts';

/**
 * Where a ground of a map may lie, the likeliest first: under the widest model that is placed, under all that stands, around the
 * middle of the world, or from its corner a metre for each step of the picture. Common practice, no published source.
 * @param picture steps of the height field across and down
 */
export function groundExtents(
  { placements, models, costs }: MapScene,
  picture: { columns: number; rows: number },
): GroundExtent[] {
  const extents: Omit<GroundExtent, 'isFlipped'>[] = [];
  const add = (minX: number, minZ: number, maxX: number, maxZ: number): void => {
    const [width, depth] = [maxX - minX, maxZ - minZ];
    if (width > 0 && depth > 0) extents.push({ x: (minX + maxX) / 2, z: (minZ + maxZ) / 2, width, depth });
  };
  const around = boundsOf(placements.map(({ position: [x, , z] }) => [x, z]));
  let widest = { area: 0, box: null as ReturnType<typeof boundsOf> };
  for (const { model, position, scale } of placements) {
    const path = models[model];
    const bounds = path ? costs[path]?.bounds : null;
    if (!bounds) continue;
    const [x, , z] = position;
    const box = boundsOf(
      [bounds.min, bounds.max].map(([bx = 0, , bz = 0]) => [x + bx * scale[0], z + bz * scale[2]]),
    );
    const area = box ? (box.maxX - box.minX) * (box.maxZ - box.minZ) : 0;
    if (area > widest.area) widest = { area, box };
  }
  if (widest.box) add(widest.box.minX, widest.box.minZ, widest.box.maxX, widest.box.maxZ);
  if (around) {
    add(around.minX, around.minZ, around.maxX, around.maxZ);
    const half = Math.max(-around.minX, around.maxX, -around.minZ, around.maxZ);
    add(-half, -half, half, half);
    // Sides are often powers of two.
    const side = 2 ** Math.ceil(Math.log2(Math.max(1, half)));
    add(-side, -side, side, side);
    add(0, 0, side, side);
  }
  const [wide, deep] = [picture.columns - 1, picture.rows - 1];
  add(-wide / 2, -deep / 2, wide / 2, deep / 2);
  add(0, 0, wide, deep);
  return extents.flatMap((extent) => [false, true].map((isFlipped) => ({ ...extent, isFlipped })));
}

function boundsOf(
  places: readonly (readonly [x: number, z: number])[] | readonly number[][],
): { minX: number; minZ: number; maxX: number; maxZ: number } | null {
  const bounds = { minX: Infinity, minZ: Infinity, maxX: -Infinity, maxZ: -Infinity };
  for (const [x = 0, z = 0] of places) {
    bounds.minX = Math.min(bounds.minX, x);
    bounds.minZ = Math.min(bounds.minZ, z);
    bounds.maxX = Math.max(bounds.maxX, x);
    bounds.maxZ = Math.max(bounds.maxZ, z);
  }
  return Number.isFinite(bounds.minX) ? bounds : null;
}
