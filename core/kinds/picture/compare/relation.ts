import type { Raster } from '../../reading.ts';
import { cut, stretch } from '../stretch.ts';
import { correlationOf } from './exact-relation.ts';
import { brightnessOf } from './structural-similarity.ts';

/** Pictures are laid over one another at this size to see what one has of the other; small ones at their own. */
const mostSide = 64;
const leastSide = 8;

/** How one picture was made of another; null where it was not. */
export type Relation =
  | { nature: 'mirrored'; how: string }
  | { nature: 'rescaled'; factor: number }
  | { nature: 'stretched'; across: number; down: number }
  | { nature: 'bordered'; wider: 'old' | 'new'; left: number; top: number; right: number; bottom: number }
  | { nature: 'recoloured'; gain: number };

/** Of two pictures of any sizes that are not equal. */
export function relationOf(old: Raster, now: Raster): Relation | null {
  const isOneSize = old.width === now.width && old.height === now.height;
  if (!isOneSize) {
    const borders = bordersOf(old, now);
    if (borders) return borders;
  }
  const side = Math.max(leastSide, Math.min(mostSide, old.width, old.height, now.width, now.height));
  const a = stretch(old, side, side);
  const b = stretch(now, side, side);
  const plain = correlationOf(brightnessOf(a), brightnessOf(b));
  const turned = turnedLikeness(brightnessOf(a), brightnessOf(b), side);
  // What is its own mirror image is not told to be mirrored.
  if (
    turned &&
    turned.likeness > 0.985 &&
    turned.likeness > plain + 0.02 &&
    meanStep(turned.values, brightnessOf(b)) < 6
  )
    return { nature: 'mirrored', how: turned.how };
  const isOneShape = Math.abs(old.width / old.height / (now.width / now.height) - 1) < 0.02;
  if (!isOneSize) {
    if (plain < 0.97 || shownStep(a.rgba, b.rgba) > 5) return null;
    return isOneShape
      ? { nature: 'rescaled', factor: now.width / old.width }
      : { nature: 'stretched', across: now.width / old.width, down: now.height / old.height };
  }
  const gain = recolouredGain(a, b);
  return gain === null ? null : { nature: 'recoloured', gain };
}

const turns: readonly { how: string; from: (x: number, y: number, last: number) => [number, number] }[] = [
  { how: 'left to right', from: (x, y, last) => [last - x, y] },
  { how: 'top to bottom', from: (x, y, last) => [x, last - y] },
  { how: 'turned by 180°', from: (x, y, last) => [last - x, last - y] },
  { how: 'turned by 90°', from: (x, y, last) => [y, last - x] },
  { how: 'turned by 270°', from: (x, y, last) => [last - y, x] },
];

function turnedLikeness(
  old: Uint8Array,
  now: Uint8Array,
  side: number,
): { how: string; likeness: number; values: Uint8Array } | null {
  let best: { how: string; likeness: number; values: Uint8Array } | null = null;
  for (const { how, from } of turns) {
    const values = new Uint8Array(side * side);
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const [oldX, oldY] = from(x, y, side - 1);
        values[y * side + x] = old[oldY * side + oldX] ?? 0;
      }
    const likeness = correlationOf(values, now);
    if (!best || likeness > best.likeness) best = { how, likeness, values };
  }
  return best;
}

function meanStep(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let at = 0; at < a.length; at++) sum += Math.abs((a[at] ?? 0) - (b[at] ?? 0));
  return sum / a.length;
}

/** The same of pixels as far as they cover: what nothing shows of does not count. */
function shownStep(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let at = 0; at < a.length; at += 4) {
    const [coverA, coverB] = [a[at + 3] ?? 0, b[at + 3] ?? 0];
    sum += Math.abs(coverA - coverB);
    for (let channel = at; channel < at + 3; channel++)
      sum += Math.abs((a[channel] ?? 0) * coverA - (b[channel] ?? 0) * coverB) / 255;
  }
  return sum / a.length;
}

/** Whether one of them is the other with even borders around it, and how wide these are. */
function bordersOf(old: Raster, now: Raster): Relation | null {
  const wider = old.width * old.height > now.width * now.height ? 'old' : 'new';
  const [outer, inner] = wider === 'old' ? [old, now] : [now, old];
  if (outer.width < inner.width || outer.height < inner.height) return null;
  const content = contentBox(outer);
  const innerContent = contentBox(inner);
  const x = content.x - innerContent.x;
  const y = content.y - innerContent.y;
  if (x < 0 || y < 0 || x + inner.width > outer.width || y + inner.height > outer.height) return null;
  if (Math.abs(content.width - innerContent.width) + Math.abs(content.height - innerContent.height) > 2)
    return null;
  const there = cut(outer, { x, y, width: inner.width, height: inner.height });
  if (meanStep(stretch(there, mostSide, mostSide).rgba, stretch(inner, mostSide, mostSide).rgba) > 3)
    return null;
  return {
    nature: 'bordered',
    wider,
    left: x,
    top: y,
    right: outer.width - x - inner.width,
    bottom: outer.height - y - inner.height,
  };
}

/** What is left within rows and columns that are all of the colour of the upper left corner, or clear. */
function contentBox({ width, height, rgba }: Raster): {
  x: number;
  y: number;
  width: number;
  height: number;
} {
  const corner = rgba.subarray(0, 4);
  const isBorder = (pixel: number): boolean => {
    const at = pixel * 4;
    if ((rgba[at + 3] ?? 0) === 0 && (corner[3] ?? 0) === 0) return true;
    for (let channel = 0; channel < 4; channel++)
      if (Math.abs((rgba[at + channel] ?? 0) - (corner[channel] ?? 0)) > 3) return false;
    return true;
  };
  let [left, right, top, bottom] = [width, -1, height, -1];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      // Between the edges that are known already nothing more is to be found out.
      if (y > top && x >= left && x < right) x = right;
      if (isBorder(y * width + x)) continue;
      left = Math.min(left, x);
      right = Math.max(right, x);
      top = Math.min(top, y);
      bottom = y;
    }
  return right < 0
    ? { x: 0, y: 0, width, height }
    : { x: left, y: top, width: right - left + 1, height: bottom - top + 1 };
}

/**
 * Whether the newer colours follow from the older ones by one affine map of red, green and blue, everywhere; and by how
 * much brighter that makes it. Null where they do not.
 */
function recolouredGain(old: Raster, now: Raster): number | null {
  const pixels = old.width * old.height;
  // Sums of the normal equations of least squares: of [red, green, blue, 1] with itself, and with each newer channel.
  const normal = Array.from({ length: 4 }, () => new Float64Array(7));
  const row = new Float64Array(7);
  const fill = (pixel: number): void => {
    for (let channel = 0; channel < 3; channel++) {
      row[channel] = old.rgba[pixel * 4 + channel] ?? 0;
      row[4 + channel] = now.rgba[pixel * 4 + channel] ?? 0;
    }
    row[3] = 1;
  };
  for (let pixel = 0; pixel < pixels; pixel++) {
    if (Math.abs((old.rgba[pixel * 4 + 3] ?? 0) - (now.rgba[pixel * 4 + 3] ?? 0)) > 4) return null;
    fill(pixel);
    normal.forEach((sums, i) => {
      for (let j = 0; j < 7; j++) sums[j] = (sums[j] ?? 0) + (row[i] ?? 0) * (row[j] ?? 0);
    });
  }
  const map = solve(normal);
  let [residual, unmapped, spread, sumOld, sumNow] = [0, 0, 0, 0, 0];
  const means = [0, 1, 2].map((channel) => (normal[3]?.[4 + channel] ?? 0) / pixels);
  for (let pixel = 0; pixel < pixels; pixel++) {
    fill(pixel);
    for (let channel = 0; channel < 3; channel++) {
      const value = row[4 + channel] ?? 0;
      let predicted = 0;
      for (let i = 0; i < 4; i++) predicted += (map[channel]?.[i] ?? 0) * (row[i] ?? 0);
      // One place that does not follow is a change of its own.
      if (Math.abs(value - predicted) > 24) return null;
      residual += (value - predicted) ** 2;
      unmapped += (value - (row[channel] ?? 0)) ** 2;
      spread += (value - (means[channel] ?? 0)) ** 2;
      sumOld += row[channel] ?? 0;
      sumNow += value;
    }
  }
  // An even picture follows from anything.
  if (spread / (pixels * 3) < 4) return null;
  // What the map does not make nearer was not made by it.
  if (residual > unmapped * 0.35 || unmapped / (pixels * 3) < 4) return null;
  return 1 - residual / spread > 0.97 ? sumNow / Math.max(1, sumOld) : null;
}

/** Gauss-Jordan with pivots; a direction without any spread is left at nothing. @returns three rows of four factors */
function solve(normal: Float64Array[]): number[][] {
  const rows = normal.map((row) => Float64Array.from(row));
  for (let pivot = 0; pivot < 4; pivot++) {
    let best = pivot;
    for (let row = pivot + 1; row < 4; row++)
      if (Math.abs(rows[row]?.[pivot] ?? 0) > Math.abs(rows[best]?.[pivot] ?? 0)) best = row;
    const chosen = rows[best];
    const swapped = rows[pivot];
    if (!chosen || !swapped) continue;
    rows[best] = swapped;
    rows[pivot] = chosen;
    const scale = chosen[pivot] ?? 0;
    if (Math.abs(scale) < 1e-6 * (normal[pivot]?.[pivot] ?? 1)) {
      chosen.fill(0);
      continue;
    }
    for (let column = 0; column < 7; column++) chosen[column] = (chosen[column] ?? 0) / scale;
    for (const row of rows) {
      if (row === chosen) continue;
      const by = row[pivot] ?? 0;
      for (let column = 0; column < 7; column++)
        row[column] = (row[column] ?? 0) - by * (chosen[column] ?? 0);
    }
  }
  return [0, 1, 2].map((channel) => rows.map((row) => row[4 + channel] ?? 0));
}
