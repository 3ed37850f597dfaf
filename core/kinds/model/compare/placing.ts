import type { ModelDetail } from '../../../../contract/comparisons.ts';
import { fieldOf, samplesOf, type Surface } from './surface.ts';

type Placed = NonNullable<ModelDetail['placed']>;

const looked = 400;
/** Shapes are the same when no point is farther off than this share of the size. */
const tolerance = 0.002;

/**
 * Whether the newer shape is the older one at another place, at another scale, or turned by quarters: from Z up to Y up,
 * or mirrored in no way. Null where it is not.
 */
export function placingOf(old: Surface, now: Surface): Placed | null {
  if (old.diagonal === 0 || now.diagonal === 0) return null;
  const scale = now.diagonal / old.diagonal;
  const field = fieldOf(now);
  const points = [...samplesOf(old, looked)].map(({ x, y, z }) => [x, y, z] as const);
  const [oldCentre, newCentre] = [centreOf(old), centreOf(now)];
  for (const turn of quarterTurns) {
    let worst = 0;
    for (const point of points) {
      const about = [0, 1, 2].map((axis) => ((point[axis] ?? 0) - (oldCentre[axis] ?? 0)) * scale);
      const placed = turn.map((row) => row[0] * (about[0] ?? 0) + row[1] * (about[1] ?? 0) + row[2] * (about[2] ?? 0));
      const distance = field.distance((placed[0] ?? 0) + newCentre[0], (placed[1] ?? 0) + newCentre[1], (placed[2] ?? 0) + newCentre[2]);
      worst = Math.max(worst, distance);
      if (worst > tolerance * now.diagonal) break;
    }
    if (worst > tolerance * now.diagonal) continue;
    const isTurned = turn !== quarterTurns[0];
    const moved = turn.map((row, axis) => (newCentre[axis] ?? 0) - scale * (row[0] * oldCentre[0] + row[1] * oldCentre[1] + row[2] * oldCentre[2]));
    return { scale, offsetMetres: [moved[0] ?? 0, moved[1] ?? 0, moved[2] ?? 0], isTurned };
  }
  return null;
} // prettier-ignore

function centreOf({ min, max }: Surface): [number, number, number] {
  return [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2];
}

type Row = readonly [number, number, number];

/** The 24 rotations of a cube, no turn at all first. */
const quarterTurns: readonly (readonly [Row, Row, Row])[] = [
  ...allOf([0, 1, 2]),
  ...allOf([1, 2, 0]),
  ...allOf([2, 0, 1]),
  ...allOf([0, 2, 1]),
  ...allOf([2, 1, 0]),
  ...allOf([1, 0, 2]),
];

function allOf(order: readonly [number, number, number]): [Row, Row, Row][] {
  // A swap of two axes turns the hand; an odd number of signs turns it back.
  const isEven = (order[0] < order[1] ? 1 : 0) + (order[1] < order[2] ? 1 : 0) + (order[0] < order[2] ? 1 : 0);
  const odd = isEven % 2 === 0;
  return [0, 1, 2, 3, 4, 5, 6, 7].flatMap((bits) => {
    const signs = [bits & 1 ? -1 : 1, bits & 2 ? -1 : 1, bits & 4 ? -1 : 1] as const;
    const product = signs[0] * signs[1] * signs[2];
    if (product !== (odd ? -1 : 1)) return [];
    const row = (at: 0 | 1 | 2): Row => [0, 1, 2].map((axis) => (order[at] === axis ? signs[at] : 0)) as unknown as Row;
    return [[row(0), row(1), row(2)]];
  });
} // prettier-ignore
