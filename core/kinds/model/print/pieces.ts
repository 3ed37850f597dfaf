import type { Manifold, Vec3 } from 'manifold-3d';
import { ReadError } from '../../reading.ts';
import type { SolidRoom } from './solid.ts';

/** Width, depth and height that a printer has room for, in millimetres. */
export type Bed = readonly [number, number, number];

export interface Cuts {
  pieces: Manifold[];
  pins: number;
}

const mostPieces = 400;
const pinRadiusMm = 2.5;
const pinLengthMm = 8;
/** Room around a pin in its hole, and of what stays around the hole. */
const pinPlayMm = 0.2;
const pinWallMm = 1.5;
const pinsOfCut = 2;
const roundSegments = 24;
/** Pieces smaller than this are crumbs of a cut that ran along a face. */
const leastVolumeMm3 = 0.01;

/**
 * Cuts a solid by planes at equal distances into pieces that fit the bed; what falls apart is more than one piece.
 * @param hasPins whether each cut gets pins on one side and holes on the other
 * @throws ReadError where there would be too many
 */
export function cutToFit(room: SolidRoom, solid: Manifold, bed: Bed, hasPins: boolean): Cuts {
  let pieces = [solid];
  let pins = 0;
  const { min, max } = solid.boundingBox();
  const sizes = ([0, 1, 2] as const).map((axis) => max[axis] - min[axis]);
  const counts = fewestCuts(sizes, bed, hasPins ? pinLengthMm / 2 : 0);
  const total = counts.reduce((product, count) => product * count, 1);
  if (!Number.isFinite(total)) throw new ReadError('the bed is too small for pins');
  if (total > mostPieces)
    throw new ReadError(
      `it would come to ${total} pieces on this bed, and no more than ${mostPieces} are made`,
    );
  for (const axis of [0, 1, 2] as const) {
    const count = counts[axis] ?? 1;
    for (let cut = 1; cut < count; cut++) {
      const offset = min[axis] + ((max[axis] - min[axis]) * cut) / count;
      pieces = pieces.flatMap((piece) => {
        const box = piece.boundingBox();
        if (box.min[axis] >= offset || box.max[axis] <= offset) return [piece];
        const made = cutOnce(room, piece, axis, offset, hasPins);
        pins += made.pins;
        return made.halves;
      });
    }
  }
  const apart = pieces.flatMap((piece) => piece.decompose().map((one) => room.keep(one)));
  return { pieces: apart.filter((piece) => piece.volume() > leastVolumeMm3), pins };
}

/** Into how many each side is cut: along whichever sides of the bed come to the fewest pieces, since each is laid down afterwards. */
function fewestCuts(sizes: readonly number[], bed: Bed, pinMm: number): number[] {
  const ways = [
    [0, 1, 2],
    [1, 0, 2],
    [0, 2, 1],
    [2, 1, 0],
    [1, 2, 0],
    [2, 0, 1],
  ].map((sides) =>
    sizes.map((size, axis) => {
      const room = bed[sides[axis] ?? 0] ?? 0;
      const own = size * (1 - 1e-6);
      if (own <= room) return 1;
      // A pin stands out of its piece.
      return room > pinMm ? Math.ceil(own / (room - pinMm)) : Infinity;
    }),
  );
  const totalOf = (counts: readonly number[]): number =>
    counts.reduce((product, count) => product * count, 1);
  return ways.reduce((best, counts) => (totalOf(counts) < totalOf(best) ? counts : best));
}

function cutOnce(
  room: SolidRoom,
  piece: Manifold,
  axis: 0 | 1 | 2,
  offset: number,
  hasPins: boolean,
): { halves: Manifold[]; pins: number } {
  const normal: Vec3 = [axis === 0 ? 1 : 0, axis === 1 ? 1 : 0, axis === 2 ? 1 : 0];
  const [above, below] = piece.splitByPlane(normal, offset).map((half) => room.keep(half)) as [
    Manifold,
    Manifold,
  ];
  const halves = [below, above].filter((half) => !half.isEmpty());
  if (!hasPins || halves.length < 2) return { halves, pins: 0 };
  const places = pinPlaces(room, piece, axis, offset);
  if (places.length === 0) return { halves, pins: 0 };
  const pegs = (radius: number, length: number): Manifold =>
    room.keep(
      room.kernel.Manifold.union(
        places.map(([u, v]) =>
          fromCut(
            room,
            room
              .keep(room.kernel.Manifold.cylinder(length, radius, radius, roundSegments, true))
              .translate([u, v, offset]),
            axis,
          ),
        ),
      ),
    );
  return {
    halves: [
      room.keep(below.add(pegs(pinRadiusMm, pinLengthMm))),
      room.keep(above.subtract(pegs(pinRadiusMm + pinPlayMm, pinLengthMm + pinPlayMm * 2))),
    ],
    pins: places.length,
  };
}

/** Turns space so that the axis of a cut points up: each axis becomes the next but one or two. */
function toCut(room: SolidRoom, solid: Manifold, axis: 0 | 1 | 2): Manifold {
  if (axis === 2) return solid;
  // Columns of a matrix that moves the axes round, which is a turn and no mirror.
  return room.keep(
    solid.transform(
      axis === 0
        ? [0, 0, 1, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 1]
        : [0, 1, 0, 0, 0, 0, 1, 0, 1, 0, 0, 0, 0, 0, 0, 1],
    ),
  );
}

function fromCut(room: SolidRoom, solid: Manifold, axis: 0 | 1 | 2): Manifold {
  room.keep(solid);
  // Twice the one is the other way round.
  return axis === 2 ? solid : toCut(room, solid, axis === 0 ? 1 : 0);
}

/** Places of a cut that have room for a pin and a wall around it, as far apart as they can be. */
function pinPlaces(room: SolidRoom, piece: Manifold, axis: 0 | 1 | 2, offset: number): [number, number][] {
  const section = room.keep(toCut(room, piece, axis).slice(offset));
  const inset = room.keep(section.offset(-(pinRadiusMm + pinPlayMm + pinWallMm), 'Round'));
  const points = inset.toPolygons().flat() as [number, number][];
  const [first] = points;
  if (!first) return [];
  // From any corner the farthest one, and from there the farthest again.
  const farthest = ([x, y]: readonly [number, number]): [number, number] =>
    points.reduce((best, point) =>
      Math.hypot(point[0] - x, point[1] - y) > Math.hypot(best[0] - x, best[1] - y) ? point : best,
    );
  const one = farthest(first);
  const other = farthest(one);
  const distance = Math.hypot(one[0] - other[0], one[1] - other[1]);
  const places = distance > (pinRadiusMm + pinPlayMm) * 2 + pinWallMm ? [one, other] : [one];
  return places.slice(0, pinsOfCut);
}
