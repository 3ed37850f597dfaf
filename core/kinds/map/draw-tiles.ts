import type { Raster } from '../reading.ts';
import { tileMask, type TileMap } from './tile-map.ts';
import { boundsOfTiles, cellPlace, type Box } from './tile-places.ts';

/** Flips of a tile: to the side, upside down, and along the diagonal (TMX map format). */
const flips = { sideways: 0x80000000, upward: 0x40000000, diagonal: 0x20000000 } as const;

/** Pixels of tiles that are drawn for one map, over one another too: some ten seconds of work. */
const mostDrawn = 400_000_000;

/** What a tile looks like: its picture, and where it lies in it. */
export interface TilePicture {
  raster: Raster;
  x: number;
  y: number;
  width: number;
  height: number;
  /** How far it is drawn from its place, to the right and down. */
  offset: { x: number; y: number };
}

/**
 * Draws a tile map. Pictures stand on the lower left corner of their cells, in their own size (TMX map format 1.10, “tileset”): what
 * is higher than a cell stands before what is behind it. A tile without a picture is drawn in a colour of its own.
 * @param pictureOf picture of a tile by its number on the map; null where there is none
 * @param most longer side of the drawing in pixels
 * @param only the layer that is drawn, by its place, as large as all together; null for all that are seen at first
 * @returns null where there is no tile, or more to draw than anybody waits for
 */
export function drawTiles(
  map: TileMap,
  pictureOf: (tile: number) => TilePicture | null,
  most: number,
  only: number | null = null,
): Raster | null {
  const bounds = boundsOfTiles(map);
  if (!bounds) return null;
  const wide = bounds.right - bounds.left;
  const high = bounds.bottom - bounds.top;
  if (wide <= 0 || high <= 0) return null;
  const scale = Math.min(1, most / Math.max(wide, high));
  const width = Math.max(1, Math.round(wide * scale));
  const height = Math.max(1, Math.round(high * scale));
  const rgba = new Uint8Array(width * height * 4);
  let drawn = 0;
  const isRhomb = map.orientation === 'isometric' || map.orientation === 'staggered';
  for (const [layer, { blocks, isVisible, opacity }] of map.layers.entries()) {
    if (only === null ? !isVisible : layer !== only) continue;
    for (const block of blocks)
      for (let row = 0; row < block.height; row++)
        for (let column = 0; column < block.width; column++) {
          const cell = block.cells[row * block.width + column] ?? 0;
          if ((cell & tileMask) === 0) continue;
          const place = cellPlace(map, block.x + column, block.y + row);
          const picture = pictureOf(cell & tileMask);
          const { x, y } = picture?.offset ?? { x: 0, y: 0 };
          // Turned about the diagonal its sides are exchanged.
          const isTurned = (cell & flips.diagonal) !== 0;
          const across = (isTurned ? picture?.height : picture?.width) ?? map.tileWidth;
          const down = (isTurned ? picture?.width : picture?.height) ?? map.tileHeight;
          // Pictures may be far larger than cells, and cover one another: a file cannot ask for work without end.
          drawn += 1 + across * down * scale * scale;
          if (drawn > mostDrawn) return null;
          const left = (place.x + x - bounds.left) * scale;
          const bottom = (place.y + y + map.tileHeight - bounds.top) * scale;
          drawTile(rgba, width, height, cell, picture, opacity, isRhomb, {
            ...{ left, bottom, right: left + across * scale, top: bottom - down * scale },
          });
        }
  }
  return { width, height, rgba };
}

function drawTile(
  rgba: Uint8Array,
  width: number,
  height: number,
  cell: number,
  picture: TilePicture | null,
  opacity: number,
  isRhomb: boolean,
  { left, top, right, bottom }: Box,
): void {
  const [fromX, toX] = [
    Math.max(0, Math.round(left)),
    Math.min(width, Math.max(Math.round(left) + 1, Math.round(right))),
  ];
  const [fromY, toY] = [
    Math.max(0, Math.round(top)),
    Math.min(height, Math.max(Math.round(top) + 1, Math.round(bottom))),
  ];
  const plain = picture ? null : colourOf(cell & tileMask);
  for (let y = fromY; y < toY; y++)
    for (let x = fromX; x < toX; x++) {
      let u = (x + 0.5 - left) / (right - left);
      let v = (y + 0.5 - top) / (bottom - top);
      // The flip along the diagonal comes first when a tile is drawn, so it is undone last.
      if (cell & flips.sideways) u = 1 - u;
      if (cell & flips.upward) v = 1 - v;
      if (cell & flips.diagonal) [u, v] = [v, u];
      if (plain && isRhomb && Math.abs(u - 0.5) + Math.abs(v - 0.5) > 0.5) continue;
      let colour: ArrayLike<number>;
      let at = 0;
      if (picture) {
        const px = picture.x + Math.min(picture.width - 1, Math.max(0, Math.floor(u * picture.width)));
        const py = picture.y + Math.min(picture.height - 1, Math.max(0, Math.floor(v * picture.height)));
        if (px >= picture.raster.width || py >= picture.raster.height) continue;
        colour = picture.raster.rgba;
        at = (py * picture.raster.width + px) * 4;
      } else colour = plain ?? [0, 0, 0, 0];
      blend(rgba, (y * width + x) * 4, colour, at, opacity);
    }
}

/** Straight alpha, the new colour over what is there (Porter and Duff 1984: over). */
function blend(rgba: Uint8Array, to: number, colour: ArrayLike<number>, at: number, opacity: number): void {
  const above = ((colour[at + 3] ?? 0) / 255) * opacity;
  const below = (rgba[to + 3] ?? 0) / 255;
  const alpha = above + below * (1 - above);
  if (alpha === 0) return;
  for (let channel = 0; channel < 3; channel++)
    rgba[to + channel] = Math.round(
      ((colour[at + channel] ?? 0) * above + (rgba[to + channel] ?? 0) * below * (1 - above)) / alpha,
    );
  rgba[to + 3] = Math.round(alpha * 255);
}

function colourOf(tile: number): readonly number[] {
  const turn = (tile * 0.61803398875) % 1;
  const channel = (shift: number): number => Math.round(120 + 70 * Math.cos(2 * Math.PI * (turn + shift)));
  return [channel(0), channel(1 / 3), channel(2 / 3), 255];
}
