import type { PlacementChange } from '../../../../contract/comparisons.ts';
import type { Placement } from '../../../../contract/facts.ts';
import { matchPlacements, metresBetween, type Pair } from './match.ts';

/** Less than a millimetre, a twentieth of a degree or a thousandth of the size is how numbers are written. */
const least = { metres: 0.001, degrees: 0.05, scale: 0.001 };

/** What differs between two maps' placements. */
export function compareScenes(
  old: readonly Placement[],
  now: readonly Placement[],
): { changes: PlacementChange[]; firstModels: string[]; goneModels: string[] } {
  const { pairs, gone, added } = matchPlacements(old, now);
  const changes = [
    ...added.map((placement) => changeOf('added', placement, placement)),
    ...gone.map((placement) => changeOf('gone', placement, placement)),
    ...pairs.flatMap(([before, after]) => {
      const status = statusOf([before, after]);
      return status === null ? [] : [changeOf(status, before, after)];
    }),
  ];
  const order = ['added', 'gone', 'swapped', 'moved', 'turned', 'scaled', 'changed'];
  changes.sort(
    (a, b) =>
      order.indexOf(a.status) - order.indexOf(b.status) || b.metres - a.metres || (a.id < b.id ? -1 : 1),
  );
  const [oldModels, newModels] = [
    new Set(old.map(({ model }) => model)),
    new Set(now.map(({ model }) => model)),
  ];
  return {
    changes,
    firstModels: [...newModels].filter((model) => !oldModels.has(model)).sort(),
    goneModels: [...oldModels].filter((model) => !newModels.has(model)).sort(),
  };
}

/** What is most of a change is what it is called by. */
function statusOf([old, now]: Pair): PlacementChange['status'] | null {
  if (old.model !== now.model) return 'swapped';
  if (metresBetween(old, now) > least.metres) return 'moved';
  if (degreesBetween(old, now) > least.degrees) return 'turned';
  if (Math.abs(scaleBetween(old, now) - 1) > least.scale) return 'scaled';
  return old.class !== now.class || old.name !== now.name || old.locator !== now.locator ? 'changed' : null;
}

function changeOf(status: PlacementChange['status'], old: Placement, now: Placement): PlacementChange {
  return {
    status,
    id: now.id,
    class: now.class,
    model: now.model,
    oldModel: old.model,
    position: now.position,
    oldPosition: old.position,
    metres: metresBetween(old, now),
    degrees: degreesBetween(old, now),
    scale: scaleBetween(old, now),
  };
}

/** Angle of the turn from one rotation to the other. */
function degreesBetween({ rotation: a }: Placement, { rotation: b }: Placement): number {
  const lengths = Math.hypot(...a) * Math.hypot(...b) || 1;
  const cosine = Math.abs(a.reduce((sum, value, at) => sum + value * (b[at] ?? 0), 0)) / lengths;
  return (2 * Math.acos(Math.min(1, cosine)) * 180) / Math.PI;
}

/** Of the volume's root: by how much the whole grew. */
function scaleBetween({ scale: a }: Placement, { scale: b }: Placement): number {
  const ratio = (axis: 0 | 1 | 2): number => (a[axis] === 0 ? 1 : b[axis] / a[axis]);
  const [x, y, z] = [ratio(0), ratio(1), ratio(2)];
  // Stretched one way and shrunk the other is a change too, though the whole is as large.
  const product = Math.cbrt(Math.abs(x * y * z));
  const widest = [x, y, z].reduce(
    (most, value) => (Math.abs(value - 1) > Math.abs(most - 1) ? value : most),
    1,
  );
  return Math.abs(product - 1) > least.scale ? product : widest;
}
