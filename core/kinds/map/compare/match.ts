import type { Placement } from '../../../../contract/facts.ts';
import { grouped } from '../../../grouped.ts';
import { cheapestAssignment } from './assign.ts';

export type Pair = readonly [old: Placement, now: Placement];

export interface Matching {
  pairs: Pair[];
  gone: Placement[];
  added: Placement[];
}

/** Up to so many of one model are assigned for the least sum of ways; of more, the nearest find each other. */
const mostAssigned = 200;
/** What stands as near as this, in metres, to where another model stood, has taken its place. */
const swapMetres = 0.5;

/**
 * Which placement of the newer map is which of the older one: first those that are equal, then by identity where both maps
 * name each once, then the nearest of the same model, then what stands where another model stood.
 */
export function matchPlacements(old: readonly Placement[], now: readonly Placement[]): Matching {
  const pairs: Pair[] = [];
  let [before, after] = [[...old], [...now]];
  const settle = (found: readonly Pair[]): void => {
    pairs.push(...found);
    const taken = new Set(found.flat());
    before = before.filter((placement) => !taken.has(placement));
    after = after.filter((placement) => !taken.has(placement));
  };
  if (haveIdentities(old) && haveIdentities(now)) {
    const byId = new Map(old.map((placement) => [placement.id, placement]));
    settle(after.flatMap((placement) => pairOf(byId.get(placement.id), placement)));
  } else {
    settle(equalPairs(before, after));
  }
  const oldByModel = grouped(before, ({ model }) => model);
  const newByModel = grouped(after, ({ model }) => model);
  for (const [model, news] of newByModel) settle(nearest(oldByModel.get(model) ?? [], news, Infinity));
  settle(nearest(before, after, swapMetres));
  return { pairs, gone: before, added: after };
}

function pairOf(old: Placement | undefined, now: Placement): Pair[] {
  return old ? [[old, now]] : [];
}

/** Whether each has a name that no other one has. */
function haveIdentities(placements: readonly Placement[]): boolean {
  const ids = new Set(placements.map(({ id }) => id));
  return ids.size === placements.length && !ids.has('');
}

function equalPairs(old: readonly Placement[], now: readonly Placement[]): Pair[] {
  const key = ({ model, class: name, position, rotation, scale }: Placement): string =>
    [model, name, ...position, ...rotation, ...scale]
      .map((value) => (typeof value === 'number' ? Math.round(value * 1e4) : value))
      .join(' ');
  const waiting = grouped(old, key);
  return now.flatMap((placement) => pairOf(waiting.get(key(placement))?.shift(), placement));
}

export function metresBetween({ position: a }: Placement, { position: b }: Placement): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}

function nearest(old: readonly Placement[], now: readonly Placement[], within: number): Pair[] {
  if (old.length === 0 || now.length === 0) return [];
  const pairs =
    Math.max(old.length, now.length) <= mostAssigned && within === Infinity
      ? assigned(old, now)
      : mutual(old, now, within);
  return pairs.filter(([before, after]) => metresBetween(before, after) <= within);
}

function assigned(old: readonly Placement[], now: readonly Placement[]): Pair[] {
  const isTurned = old.length > now.length;
  const [rows, columns] = isTurned ? [now, old] : [old, now];
  const cost = (row: number, column: number): number => {
    const [a, b] = [rows[row], columns[column]];
    return a && b ? metresBetween(a, b) : 0;
  };
  return [...cheapestAssignment(rows.length, columns.length, cost)].flatMap((column, row): Pair[] => {
    const [a, b] = [rows[row], columns[column]];
    if (!a || !b) return [];
    return [isTurned ? [b, a] : [a, b]];
  });
}

/** The nearest pair first, then the next: of each, its few nearest in a grid are looked at, wider and wider. */
function mutual(old: readonly Placement[], now: readonly Placement[], within: number): Pair[] {
  let [free, left] = [[...old], [...now]];
  const pairs: Pair[] = [];
  const spread = extentOf([...old, ...now]);
  let cell =
    within === Infinity ? Math.max(1e-3, spread / Math.sqrt(Math.max(old.length, now.length))) : within;
  while (free.length > 0 && left.length > 0) {
    const grid = grouped(free, ({ position }) => cellKey(position, cell, 0, 0));
    const candidates: { metres: number; old: Placement; now: Placement }[] = [];
    for (const after of left)
      for (let x = -1; x <= 1; x++)
        for (let z = -1; z <= 1; z++)
          for (const before of grid.get(cellKey(after.position, cell, x, z)) ?? []) {
            const metres = metresBetween(before, after);
            if (metres <= Math.min(cell, within)) candidates.push({ metres, old: before, now: after });
          }
    candidates.sort(
      (a, b) => a.metres - b.metres || compare(a.now.id, b.now.id) || compare(a.old.id, b.old.id),
    );
    const taken = new Set<Placement>();
    for (const candidate of candidates) {
      if (taken.has(candidate.old) || taken.has(candidate.now)) continue;
      taken.add(candidate.old).add(candidate.now);
      pairs.push([candidate.old, candidate.now]);
    }
    free = free.filter((placement) => !taken.has(placement));
    left = left.filter((placement) => !taken.has(placement));
    if (cell >= within || cell > spread * 2) break;
    cell *= 3;
  }
  return pairs;
}

function cellKey([x, , z]: readonly number[], cell: number, byX: number, byZ: number): string {
  return `${Math.floor((x ?? 0) / cell) + byX} ${Math.floor((z ?? 0) / cell) + byZ}`;
}

function extentOf(placements: readonly Placement[]): number {
  let [low, high] = [Infinity, -Infinity];
  for (const { position } of placements)
    for (const axis of [0, 2] as const) {
      low = Math.min(low, position[axis]);
      high = Math.max(high, position[axis]);
    }
  return high - low;
}

function compare(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}
