import type { PlacementChange } from '../../../../contract/comparisons.ts';
import type { Placement } from '../../../../contract/facts.ts';
import { previewSize, type Raster } from '../../reading.ts';

const ink = [120, 140, 132] as const;
const colours: Readonly<Record<string, readonly [number, number, number]>> = {
  added: [38, 122, 84],
  gone: [150, 44, 60],
};
const otherwise = [196, 92, 32] as const;
const margin = 16;

/** The plan from above: what stayed small and pale, what came, went and moved large and coloured, with the way it went. */
export function drawChanges(now: readonly Placement[], changes: readonly PlacementChange[]): Raster {
  const rgba = new Uint8Array(previewSize * previewSize * 4);
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const [x, , z] of [
    ...now.map(({ position }) => position),
    ...changes.map(({ oldPosition }) => oldPosition),
  ]) {
    [left, right] = [Math.min(left, x), Math.max(right, x)];
    [top, bottom] = [Math.min(top, z), Math.max(bottom, z)];
  }
  const scale = (previewSize - 2 * margin) / Math.max(right - left, bottom - top, 1e-6);
  const at = (point: readonly [number, number, number]): [number, number] => [
    previewSize / 2 + (point[0] - (left + right) / 2) * scale,
    previewSize / 2 + (point[2] - (top + bottom) / 2) * scale,
  ];
  const spot = (
    [x, y]: readonly [number, number],
    radius: number,
    colour: readonly [number, number, number],
  ): void => {
    for (let dy = -radius; dy <= radius; dy++)
      for (let dx = -radius; dx <= radius; dx++) {
        const [px, py] = [Math.round(x) + dx, Math.round(y) + dy];
        if (
          dx * dx + dy * dy <= radius * radius &&
          px >= 0 &&
          py >= 0 &&
          px < previewSize &&
          py < previewSize
        )
          rgba.set([...colour, 255], (py * previewSize + px) * 4);
      }
  };
  for (const { position } of now) spot(at(position), 1, ink);
  for (const { status, position, oldPosition } of changes) {
    const colour = colours[status] ?? otherwise;
    if (status === 'moved') {
      const [from, to] = [at(oldPosition), at(position)];
      const steps = Math.max(1, Math.ceil(Math.hypot(to[0] - from[0], to[1] - from[1])));
      for (let step = 0; step <= steps; step++)
        spot(
          [from[0] + ((to[0] - from[0]) * step) / steps, from[1] + ((to[1] - from[1]) * step) / steps],
          0,
          colour,
        );
    }
    spot(at(position), 4, colour);
  }
  return { width: previewSize, height: previewSize, rgba };
}
