import type { Placement } from '../../../../contract/facts.ts';

/** Heights on an even grid, rows from the top of their picture. */
export interface HeightField {
  columns: number;
  rows: number;
  /** 0 to 1 where the picture has whole numbers, as they are where it has others; row by row. */
  values: Float32Array;
}

/** Where a ground lies: metres, x to the right of its picture and z down. */
export interface GroundExtent {
  /** Of its middle. */
  x: number;
  z: number;
  width: number;
  depth: number;
  /** Whether the first row of its picture lies at the far end of z. */
  isFlipped: boolean;
}

/** Metres that 0 and 1 stand for. */
export interface GroundLevels {
  lowest: number;
  highest: number;
}

export interface FittedGround {
  extent: GroundExtent;
  levels: GroundLevels;
  /** How many things stand on it, of how many that lie within. */
  standing: number;
  within: number;
}

/** The first channel of a picture's numbers. @param stride how many numbers a pixel has */
export function heightFieldOf(
  data: Uint8Array | Uint16Array | Float32Array,
  { width, height }: { width: number; height: number },
  mostOfSide: number,
  stride = 4,
): HeightField {
  const [columns, rows] = [Math.min(width, mostOfSide), Math.min(height, mostOfSide)];
  const one = data instanceof Uint8Array ? 255 : data instanceof Uint16Array ? 65_535 : 1;
  const values = new Float32Array(columns * rows);
  for (let row = 0; row < rows; row++) {
    // Corners are kept: the edges of a field lie against those of the next.
    const y = rows === 1 ? 0 : Math.round((row * (height - 1)) / (rows - 1));
    for (let column = 0; column < columns; column++) {
      const x = columns === 1 ? 0 : Math.round((column * (width - 1)) / (columns - 1));
      const value = (data[(y * width + x) * stride] ?? 0) / one;
      values[row * columns + column] = Number.isFinite(value) ? value : 0;
    }
  }
  return { columns, rows, values };
}

/** What a field has at a place, between its four nearest heights; NaN beside it. */
export function heightAt(
  { columns, rows, values }: HeightField,
  extent: GroundExtent,
  x: number,
  z: number,
): number {
  const u = (x - extent.x) / extent.width + 0.5;
  const down = (z - extent.z) / extent.depth + 0.5;
  const v = extent.isFlipped ? 1 - down : down;
  if (!(u >= 0 && u <= 1 && v >= 0 && v <= 1)) return NaN;
  const [left, top] = [u * (columns - 1), v * (rows - 1)];
  const [column, row] = [Math.min(Math.floor(left), columns - 2), Math.min(Math.floor(top), rows - 2)];
  if (column < 0 || row < 0) return values[0] ?? NaN;
  const [right, below] = [left - column, top - row];
  const at = (dx: number, dy: number): number => values[(row + dy) * columns + column + dx] ?? 0;
  return (
    (at(0, 0) * (1 - right) + at(1, 0) * right) * (1 - below) +
    (at(0, 1) * (1 - right) + at(1, 1) * right) * below
  );
}

/** So many pairs of things are tried for the line that most lie on. */
const tries = 400;
const mostLooked = 4000;
const fewestStanding = 8;
/** Where fewer of those within stand on it, they stand on something else. */
const leastShare = 0.4;
/** What floats on a water or stands on a quay lies at one height, and says nothing of hills: so many more stand on these. */
const leastOnHills = 0.05;
/** Things of a wood or a quay stand on the ground to within a hand, or a hundredth of all heights. */
const leastToleranceMetres = 0.15;

/**
 * Where a height field lies, and which heights it has, told by the things that stand on it: of the extents that are tried, the one
 * on which most stand beyond those that lie at one height, with the line from numbers to metres that most agree on. Common practice, no published source; the line is
 * found by trying pairs (RANSAC, Fischler and Bolles 1981), and made fine by least squares.
 * @returns null where too few things stand on any of them
 */
export function fitGround(
  field: HeightField,
  placements: readonly Pick<Placement, 'position'>[],
  extents: readonly GroundExtent[],
): FittedGround | null {
  const step = Math.max(1, Math.floor(placements.length / mostLooked));
  const looked = placements.filter((_, at) => at % step === 0);
  let best: (FittedGround & { onHills: number }) | null = null;
  for (const extent of extents) {
    const fitted = fitHeights(field, looked, extent);
    if (!fitted || fitted.standing < fitted.within * leastShare) continue;
    if (fitted.onHills > (best?.onHills ?? Math.max(fewestStanding - 1, fitted.within * leastOnHills)))
      best = fitted;
  }
  if (!best) return null;
  const { extent, levels, standing, within } = best;
  return { extent, levels, standing, within };
}

function fitHeights(
  field: HeightField,
  placements: readonly Pick<Placement, 'position'>[],
  extent: GroundExtent,
): (FittedGround & { onHills: number }) | null {
  const points = placements.flatMap(({ position: [x, y, z] }) => {
    const value = heightAt(field, extent, x, z);
    return Number.isNaN(value) ? [] : [{ value, y }];
  });
  if (points.length < fewestStanding) return null;
  const heights = points.map(({ y }) => y).sort((a, b) => a - b);
  // Without the highest and lowest few: something always hangs in the sky.
  const range =
    (heights[Math.floor(heights.length * 0.95)] ?? 0) - (heights[Math.floor(heights.length * 0.05)] ?? 0);
  const tolerance = Math.max(leastToleranceMetres, range / 100);
  const isOn = (slope: number, offset: number, { value, y }: { value: number; y: number }): boolean =>
    Math.abs(offset + slope * value - y) <= tolerance;
  let best = { slope: 0, offset: 0, count: 0 };
  let random = 1;
  const next = (): number => {
    // The same pairs each time: nobody wants a ground that moves between two looks.
    random = (Math.imul(random, 1_103_515_245) + 12_345) & 0x7fffffff;
    return (random >>> 8) % points.length;
  };
  for (let tried = 0; tried < tries; tried++) {
    const [a, b] = [points[next()], points[next()]];
    if (!a || !b || Math.abs(a.value - b.value) < 1e-4) continue;
    const slope = (b.y - a.y) / (b.value - a.value);
    // Heights grow with their numbers.
    if (slope <= 0) continue;
    const offset = a.y - slope * a.value;
    let count = 0;
    for (const point of points) if (isOn(slope, offset, point)) count++;
    if (count > best.count) best = { slope, offset, count };
  }
  if (best.count < fewestStanding) return null;
  const { slope, offset } = leastSquares(points.filter((point) => isOn(best.slope, best.offset, point)));
  const standing = points.filter((point) => isOn(slope, offset, point)).length;
  return {
    extent,
    levels: { lowest: offset, highest: offset + slope },
    ...{ standing, within: points.length, onHills: standing - mostAtOneHeight(heights, tolerance) },
  };
}

/** How many of them a level ground would bear. @param heights sorted */
function mostAtOneHeight(heights: readonly number[], tolerance: number): number {
  let most = 0;
  for (let last = 0, first = 0; last < heights.length; last++) {
    while ((heights[last] ?? 0) - (heights[first] ?? 0) > 2 * tolerance) first++;
    most = Math.max(most, last - first + 1);
  }
  return most;
}

function leastSquares(points: readonly { value: number; y: number }[]): { slope: number; offset: number } {
  const mean = (of: (point: { value: number; y: number }) => number): number =>
    points.reduce((sum, point) => sum + of(point), 0) / points.length;
  const [value, y] = [mean((point) => point.value), mean((point) => point.y)];
  const spread = mean((point) => (point.value - value) ** 2);
  const slope = spread === 0 ? 0 : mean((point) => (point.value - value) * (point.y - y)) / spread;
  return { slope, offset: y - slope * value };
}
