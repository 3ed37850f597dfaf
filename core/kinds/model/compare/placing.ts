import type { ModelDetail } from '../../../../contract/comparisons.ts';
import { fieldOf, samplesOf, type Surface } from './surface.ts';

type Placed = NonNullable<ModelDetail['placed']>;

const looked = 400;
/** So many vertices either way, where the samples lie well: what is small is at a vertex. */
const checked = 3000;
/** Shapes are the same when no point is farther off than this share of the size. */
const tolerance = 0.0005;

/**
 * Whether the newer shape is the older one at another place, at another scale, turned by quarters (from Z up to Y up), or mirrored. Null where it is not, and where it stands as it stood.
 */
export function placingOf(old: Surface, now: Surface): Placed | null {
  if (old.diagonal === 0 || now.diagonal === 0) return null;
  const scale = now.diagonal / old.diagonal;
  const [oldCentre, newCentre] = [centreOf(old), centreOf(now)];
  const samples = [...samplesOf(old, looked)].map(({ x, y, z }): Row => [x, y, z]);
  for (const { turn, isMirrored } of [
    ...quarterTurns.map((turn) => ({ turn, isMirrored: false })),
    ...mirrorTurns.map((turn) => ({ turn, isMirrored: true })),
  ]) {
    const forth = (point: Row): Row =>
      addRows(newCentre, turned(turn, scaled(scale, addRows(point, scaled(-1, oldCentre)))));
    if (!liesOn(now, samples.map(forth), tolerance)) continue;
    const back = (point: Row): Row =>
      addRows(oldCentre, turned(transposed(turn), scaled(1 / scale, addRows(point, scaled(-1, newCentre)))));
    if (
      !liesOn(now, cornersOf(old).map(forth), tolerance) ||
      !liesOn(old, cornersOf(now).map(back), tolerance)
    )
      continue;
    const isTurned = turn !== quarterTurns[0] && !(isMirrored && isAlongAxis(turn));
    const offset = forth([0, 0, 0]);
    const isAsItWas =
      !isTurned &&
      !isMirrored &&
      Math.abs(scale - 1) < tolerance &&
      Math.hypot(...offset) < tolerance * now.diagonal;
    return isAsItWas
      ? null
      : { scale, offsetMetres: [...offset], isTurned, ...(isMirrored ? { mirrored: axisOf(turn) } : {}) };
  }
  return null;
}

function liesOn(surface: Surface, points: readonly Row[], share: number): boolean {
  const field = fieldOf(surface);
  return points.every(([x, y, z]) => field.distance(x, y, z) <= share * surface.diagonal);
}

function cornersOf({ positions, indices }: Surface): Row[] {
  const every = Math.max(1, Math.ceil(indices.length / checked));
  const corners: Row[] = [];
  for (let corner = 0; corner < indices.length; corner += every) {
    const at = (indices[corner] ?? 0) * 3;
    corners.push([positions[at] ?? 0, positions[at + 1] ?? 0, positions[at + 2] ?? 0]);
  }
  return corners;
}

function addRows(a: Row, b: Row): Row {
  return [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
}

function scaled(by: number, [x, y, z]: Row): Row {
  return [by * x, by * y, by * z];
}

function turned([x, y, z]: Turn, point: Row): Row {
  const dot = (row: Row): number => row[0] * point[0] + row[1] * point[1] + row[2] * point[2];
  return [dot(x), dot(y), dot(z)];
}

function transposed([x, y, z]: Turn): Turn {
  return [
    [x[0], y[0], z[0]],
    [x[1], y[1], z[1]],
    [x[2], y[2], z[2]],
  ];
}

function centreOf({ min, max }: Surface): [number, number, number] {
  return [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2];
}

type Row = readonly [number, number, number];
type Turn = readonly [Row, Row, Row];

/** The 24 rotations of a cube, no turn at all first. */
const quarterTurns: readonly Turn[] = [
  ...allOf([0, 1, 2]),
  ...allOf([1, 2, 0]),
  ...allOf([2, 0, 1]),
  ...allOf([0, 2, 1]),
  ...allOf([2, 1, 0]),
  ...allOf([1, 0, 2]),
];

/** The same with one hand for the other: the 24 with their first axis turned around. */
const mirrorTurns: readonly Turn[] = quarterTurns.map(([x, y, z]): Turn => [scaled(-1, x), y, z]);

function isAlongAxis([x, y, z]: Turn): boolean {
  return Math.abs(x[0]) + Math.abs(y[1]) + Math.abs(z[2]) === 3;
}

/** The axis along which it is mirrored; where it is turned too, by which one it can be said. */
function axisOf(turn: Turn): 'X' | 'Y' | 'Z' {
  if (!isAlongAxis(turn)) return 'X';
  return turn[0][0] < 0 ? 'X' : turn[1][1] < 0 ? 'Y' : 'Z';
}

function allOf(order: readonly [number, number, number]): [Row, Row, Row][] {
  // A swap of two axes turns the hand; an odd number of signs turns it back.
  const isEven =
    (order[0] < order[1] ? 1 : 0) + (order[1] < order[2] ? 1 : 0) + (order[0] < order[2] ? 1 : 0);
  const odd = isEven % 2 === 0;
  return [0, 1, 2, 3, 4, 5, 6, 7].flatMap((bits) => {
    const signs = [bits & 1 ? -1 : 1, bits & 2 ? -1 : 1, bits & 4 ? -1 : 1] as const;
    const product = signs[0] * signs[1] * signs[2];
    if (product !== (odd ? -1 : 1)) return [];
    const row = (at: 0 | 1 | 2): Row =>
      [0, 1, 2].map((axis) => (order[at] === axis ? signs[at] : 0)) as unknown as Row;
    return [[row(0), row(1), row(2)]];
  });
}
