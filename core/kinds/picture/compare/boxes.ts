import { tileSide, type PixelDifferences } from './differences.ts';

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

export const mostBoxes = 12;

/**
 * Boxes around the tiles whose mean step is above a threshold, those that touch in one; the largest first, at most twelve.
 * @param threshold in 255ths
 */
export function boxesOf(
  { tileMeans, tilesAcross, tilesDown }: PixelDifferences,
  width: number,
  height: number,
  threshold: number,
): Box[] {
  const seen = new Uint8Array(tileMeans.length);
  const boxes: Box[] = [];
  for (let start = 0; start < tileMeans.length; start++) {
    if (seen[start] || (tileMeans[start] ?? 0) <= threshold) continue;
    let [left, right, top, bottom] = [tilesAcross, 0, tilesDown, 0];
    const stack = [start];
    seen[start] = 1;
    for (let tile = stack.pop(); tile !== undefined; tile = stack.pop()) {
      const x = tile % tilesAcross;
      const y = Math.floor(tile / tilesAcross);
      left = Math.min(left, x);
      right = Math.max(right, x);
      top = Math.min(top, y);
      bottom = Math.max(bottom, y);
      for (let nearY = Math.max(0, y - 1); nearY <= Math.min(tilesDown - 1, y + 1); nearY++)
        for (let nearX = Math.max(0, x - 1); nearX <= Math.min(tilesAcross - 1, x + 1); nearX++) {
          const near = nearY * tilesAcross + nearX;
          if (seen[near] || (tileMeans[near] ?? 0) <= threshold) continue;
          seen[near] = 1;
          stack.push(near);
        }
    }
    boxes.push({
      x: left * tileSide,
      y: top * tileSide,
      width: Math.min(width, (right + 1) * tileSide) - left * tileSide,
      height: Math.min(height, (bottom + 1) * tileSide) - top * tileSide,
    });
  }
  return boxes
    .sort((a, b) => b.width * b.height - a.width * a.height || a.y - b.y || a.x - b.x)
    .slice(0, mostBoxes);
}
