import type { TileMap } from './tile-map.ts';

/** A rectangle in pixels of the map. */
export interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

type Grid = Pick<TileMap, 'tileWidth' | 'tileHeight' | 'orientation' | 'stagger'>;

/**
 * Where the rectangle around a cell begins, in pixels of the map: side by side; as rhombs (`isometric`); or with every second row or
 * column moved on by half (`staggered`, `hexagonal`). TMX map format 1.10, “map”: orientation, staggeraxis, staggerindex,
 * hexsidelength.
 */
export function cellPlace(
  { tileWidth, tileHeight, orientation, stagger }: Grid,
  column: number,
  row: number,
): { x: number; y: number } {
  if (orientation === 'isometric')
    return { x: ((column - row) * tileWidth) / 2, y: ((column + row) * tileHeight) / 2 };
  if (orientation !== 'staggered' && orientation !== 'hexagonal')
    return { x: column * tileWidth, y: row * tileHeight };
  const side = orientation === 'hexagonal' ? stagger.sidePixels : 0;
  const isAlongX = stagger.axis === 'x';
  const isMoved = (Math.abs(isAlongX ? column : row) % 2 === 1) === (stagger.index === 'odd');
  return isAlongX
    ? { x: (column * (tileWidth + side)) / 2, y: row * tileHeight + (isMoved ? tileHeight / 2 : 0) }
    : { x: column * tileWidth + (isMoved ? tileWidth / 2 : 0), y: (row * (tileHeight + side)) / 2 };
}

/** The rectangle that its layers fill; null where there are none. Pictures higher and wider than a cell stand out of that. */
export function boundsOfTiles(map: TileMap): Box | null {
  const bounds: Box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
  for (const { blocks } of map.layers)
    for (const { x, y, width, height } of blocks) {
      if (width <= 0 || height <= 0) continue;
      // What lies farthest out is at a corner, in one of two rows or columns of which every second is moved.
      for (const column of new Set([
        x,
        x + Math.min(1, width - 1),
        x + Math.max(0, width - 2),
        x + width - 1,
      ]))
        for (const row of new Set([
          y,
          y + Math.min(1, height - 1),
          y + Math.max(0, height - 2),
          y + height - 1,
        ])) {
          const place = cellPlace(map, column, row);
          bounds.left = Math.min(bounds.left, place.x);
          bounds.top = Math.min(bounds.top, place.y);
          bounds.right = Math.max(bounds.right, place.x + map.tileWidth);
          bounds.bottom = Math.max(bounds.bottom, place.y + map.tileHeight);
        }
    }
  if (!Number.isFinite(bounds.left)) return null;
  const most = (of: (set: TileMap['sets'][number]) => number): number =>
    map.sets.reduce((largest, set) => Math.max(largest, of(set)), 0);
  // Sets that say more than any picture of tiles has are not believed.
  const higher = most(({ tileHeight }) => tileHeight) - map.tileHeight;
  const wider = most(({ tileWidth }) => tileWidth) - map.tileWidth;
  if (higher > 0 && higher <= mostOver) bounds.top -= higher;
  if (wider > 0 && wider <= mostOver) bounds.right += wider;
  return bounds;
}

const mostOver = 4096;
