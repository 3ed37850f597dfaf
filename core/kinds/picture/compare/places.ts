import type { Raster } from '../../reading.ts';
import { words } from '../words.ts';
import type { Box } from './boxes.ts';
import { tileSide, type PixelDifferences } from './differences.ts';

/** A tile stands out of what loss leaves by so many times what the others have, and by so much in 255ths. */
const [standsOut, standsOutBy] = [5, 10];
/** A pixel stands out by so much, in 255ths, where the rest is packed with loss. */
const pixelStandsOut = 40;

/** Boxes drawn close around the pixels that differ by more than a step. */
export function tightBoxes(old: Raster, now: Raster, boxes: readonly Box[], leastStep: number): Box[] {
  const [a, b] = [words(old.rgba), words(now.rgba)];
  const differs = (pixel: number): boolean => {
    const [p, q] = [a[pixel] ?? 0, b[pixel] ?? 0];
    if (p === q) return false;
    if (leastStep === 0) return true;
    return (
      Math.abs((p & 255) - (q & 255)) > leastStep ||
      Math.abs(((p >>> 8) & 255) - ((q >>> 8) & 255)) > leastStep ||
      Math.abs(((p >>> 16) & 255) - ((q >>> 16) & 255)) > leastStep ||
      Math.abs((p >>> 24) - (q >>> 24)) > leastStep
    );
  };
  return boxes.flatMap((box) => {
    let [left, right, top, bottom] = [Infinity, -1, Infinity, -1];
    for (let y = box.y; y < box.y + box.height; y++)
      for (let x = box.x; x < box.x + box.width; x++) {
        if (!differs(y * now.width + x)) continue;
        if (x < left) left = x;
        if (x > right) right = x;
        if (y < top) top = y;
        if (y > bottom) bottom = y;
      }
    return right < 0 ? [] : [{ x: left, y: top, width: right - left + 1, height: bottom - top + 1 }];
  });
}

/** The step in 255ths above which tiles stand out of what packing left everywhere; null where none do. */
export function placeThreshold({ tileMeans }: PixelDifferences): number | null {
  const sorted = [...tileMeans].sort((x, y) => x - y);
  const usual = sorted[sorted.length >> 1] ?? 0;
  const high = sorted[Math.floor(sorted.length * 0.8)] ?? 0;
  const threshold = Math.max(usual * standsOut, high * 2, usual + standsOutBy);
  return (sorted.at(-1) ?? 0) > threshold ? threshold : null;
}

/** Boxes of what stands out of loss. */
export function boxesInLoss(old: Raster, now: Raster, boxes: readonly Box[]): Box[] {
  // What was changed may reach a little into the tiles around.
  const wider = boxes.map(({ x, y, width, height }) => {
    const [left, top] = [Math.max(0, x - tileSide), Math.max(0, y - tileSide)];
    return {
      x: left,
      y: top,
      width: Math.min(now.width, x + width + tileSide) - left,
      height: Math.min(now.height, y + height + tileSide) - top,
    };
  });
  return tightBoxes(old, now, wider, pixelStandsOut);
}

/** Where it differs, in words: a pixel, a box, or how many and the largest. */
export function describePlaces(boxes: readonly Box[], most: number): string {
  const [first] = boxes;
  if (!first) return '';
  const size = (box: Box): string => `${box.width} × ${box.height} at ${box.x}, ${box.y}`;
  if (boxes.length === 1) return `in one place, ${size(first)}`;
  return `in ${boxes.length >= most ? `${most} places or more` : `${boxes.length} places`}, the largest ${size(first)}`;
}
