import type { Manifold, ManifoldToplevel } from 'manifold-3d';
import { ReadError } from '../../reading.ts';
import { distanceGrid } from './distance-grid.ts';
import { closeHoles, shellsOf, turnedInsideOut, type Shell } from './shells.ts';

/** Solids live in memory that nothing else frees: what was made is kept here until all of it goes. */
export class SolidRoom {
  private readonly made: { delete(): void }[] = [];
  constructor(readonly kernel: ManifoldToplevel) {}

  keep<Made extends { delete(): void }>(made: Made): Made {
    this.made.push(made);
    return made;
  }

  free(): void {
    for (const one of this.made.splice(0)) one.delete();
  }
}

export interface SolidMade {
  solid: Manifold;
  /** Shells that it was made of, those of them that had no inside and were made as thick as a wall, and holes that were closed. */
  shells: number;
  thickened: number;
  holes: number;
  /** Shells that were turned inside out, since they enclosed less than nothing. */
  turned: number;
}

/** Places of the grid along the longest side, where sheets are made thick. */
const gridPlaces = 100;
/** A shell whose mean thickness is less than this share of a wall has no inside. */
const sheetShare = 0.25;
/** How far what was made by the grid may be off from it, in steps. */
const roughness = 0.04;

/**
 * Joins shells to one watertight solid: closed ones as they are, with holes closed, seen from outside; what has no inside is given
 * the thickness of a wall. What lies within others is gone.
 * @param parts in millimetres
 * @param wallMm the thickness of what has none
 * @throws ReadError where nothing is left
 */
export function solidOf(room: SolidRoom, parts: readonly Shell[], wallMm: number): SolidMade {
  const shells = shellsOf(parts);
  const solids: Manifold[] = [];
  const sheets: Shell[] = [];
  let [holes, turned] = [0, 0];
  for (const shell of shells) {
    const closed = closeHoles(shell);
    const made = closed && exactSolid(room, closed.shell, wallMm);
    if (!made) {
      sheets.push(shell);
      continue;
    }
    holes += closed.holes;
    if (made.isTurned) turned++;
    solids.push(made.solid);
  }
  if (sheets.length > 0) solids.push(thickSolid(room, sheets, wallMm, sizeOf(parts)));
  const { Manifold } = room.kernel;
  const solid = room.keep(Manifold.union(solids));
  if (solid.isEmpty() || !(solid.volume() > 0))
    throw new ReadError('it encloses nothing, and has nothing that could be made thick');
  return { solid, shells: shells.length, thickened: sheets.length, holes, turned };
}

function exactSolid(
  room: SolidRoom,
  shell: Shell,
  wallMm: number,
): { solid: Manifold; isTurned: boolean } | null {
  const made = tryMesh(room, shell);
  if (!made) return null;
  const isTurned = made.volume() < 0;
  const solid = isTurned ? tryMesh(room, turnedInsideOut(shell)) : made;
  if (!solid) return null;
  const area = solid.surfaceArea();
  return area > 0 && (2 * solid.volume()) / area >= wallMm * sheetShare ? { solid, isTurned } : null;
}

function tryMesh(room: SolidRoom, { positions, indices }: Shell): Manifold | null {
  const { Manifold, Mesh } = room.kernel;
  try {
    const mesh = new Mesh({ numProp: 3, vertProperties: positions, triVerts: indices });
    mesh.merge();
    return room.keep(new Manifold(mesh));
  } catch {
    // It is no closed surface, by whatever fault: it is made thick instead.
    return null;
  }
}

/** Everything within half a wall of a sheet, and what sheets enclose. */
function thickSolid(room: SolidRoom, sheets: readonly Shell[], wallMm: number, size: number): Manifold {
  const step = Math.max(size / gridPlaces, wallMm / 4);
  const radius = Math.max(wallMm / 2, step * 0.75);
  const { min, max, valueAt } = distanceGrid(sheets, radius, step);
  const [left, front, bottom] = min;
  // Its own space begins at nothing: far from there the library leaves its memory.
  const made = room.keep(
    room.kernel.Manifold.levelSet(
      ([x, y, z]) => valueAt(x + left, y + front, z + bottom),
      { min: [0, 0, 0], max: [max[0] - left, max[1] - front, max[2] - bottom] },
      step,
    ),
  );
  // As fine as the grid is, and no finer.
  return room.keep(room.keep(made.simplify(step * roughness)).translate([left, front, bottom]));
}

/** The longest side of all. */
export function sizeOf(parts: readonly Shell[]): number {
  const least = [Infinity, Infinity, Infinity];
  const most = [-Infinity, -Infinity, -Infinity];
  for (const { positions } of parts)
    for (let at = 0; at < positions.length; at++) {
      least[at % 3] = Math.min(least[at % 3] ?? 0, positions[at] ?? 0);
      most[at % 3] = Math.max(most[at % 3] ?? 0, positions[at] ?? 0);
    }
  const size = Math.max(...most.map((value, axis) => value - (least[axis] ?? 0)));
  return Number.isFinite(size) ? size : 0;
}
