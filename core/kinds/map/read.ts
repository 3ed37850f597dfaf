import type { Bounds, Placement } from '../../../contract/facts.ts';
import { Mentions, type Mention } from '../mentions.ts';
import { ReadError, previewSize, readingOf, type Raster, type Reader } from '../reading.ts';
import { placementsOf } from './placements.ts';

export const readMap: Reader = async ({ bytes }) => {
  const placements = placementsOf(parse(bytes));
  const classes: Record<string, number> = {};
  for (const { class: name } of placements) classes[name] = (classes[name] ?? 0) + 1;
  const boundsMetres = boundsOf(placements);
  return readingOf(
    {
      kind: 'map',
      placements: placements.length,
      classes,
      models: [...new Set(placements.map((placement) => placement.model))].sort(),
      boundsMetres,
    },
    { preview: boundsMetres && plan(placements, boundsMetres), mentions: mentionsOf(placements) },
  );
};

function mentionsOf(placements: readonly Placement[]): Mention[] {
  const mentions = new Mentions();
  for (const { model } of placements) mentions.addPath(model, 'placement');
  return mentions.list();
}

function parse(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch (error) {
    throw new ReadError(
      `this placement table is not valid JSON: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
}

function boundsOf(placements: readonly Placement[]): Bounds | null {
  if (placements.length === 0) return null;
  const bounds: Bounds = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
  for (const { position } of placements) {
    for (const axis of [0, 1, 2] as const) {
      bounds.min[axis] = Math.min(bounds.min[axis], position[axis]);
      bounds.max[axis] = Math.max(bounds.max[axis], position[axis]);
    }
  }
  return bounds;
}

/** Seen on a light ground and on a dark one. */
const spot = [190, 84, 44] as const;

/** The map from above, x to the right and z downwards: a spot for each placement, on a clear ground. */
function plan(placements: readonly Placement[], { min, max }: Bounds): Raster {
  const size = previewSize;
  const rgba = new Uint8Array(size * size * 4);
  const span = Math.max(max[0] - min[0], max[2] - min[2], 1e-6);
  const margin = 16;
  const scale = (size - 2 * margin) / span;
  const left = (size - (max[0] - min[0]) * scale) / 2;
  const top = (size - (max[2] - min[2]) * scale) / 2;
  for (const { position } of placements) {
    const centreX = Math.round(left + (position[0] - min[0]) * scale);
    const centreY = Math.round(top + (position[2] - min[2]) * scale);
    for (let y = -3; y <= 3; y++) {
      for (let x = -3; x <= 3; x++) {
        if (x * x + y * y <= 9) rgba.set([...spot, 255], ((centreY + y) * size + centreX + x) * 4);
      }
    }
  }
  return { width: size, height: size, rgba };
}
