import type { Bounds, Placement } from '../../../contract/facts.ts';
import { Mentions, type Mention } from '../mentions.ts';
import {
  ReadError,
  previewSize,
  readingOf,
  type Raster,
  type ReadRequest,
  type Reader,
  type Reading,
} from '../reading.ts';
import { formatByExtension } from '../formats.ts';
import { identify } from '../identify.ts';
import { besidesOf, besidesPiece, type Besides } from './besides.ts';
import { readTileSetFile, readTiles } from './read-tiles.ts';
import { placementsByRecipe } from './recipe.ts';
import { placementsOf } from './placements.ts';

export const readMap: Reader = async (request) => {
  const { bytes, path, recipe, bySheet } = request;
  if (bySheet) return readingOfPlacements(await bySheet.placements(), '', null);
  if (recipe) {
    const { placements, faults, faultCount, rows } = placementsByRecipe(bytes, recipe);
    const damage =
      faultCount === 0
        ? null
        : `${faultCount.toLocaleString('en')} of ${rows.toLocaleString('en')} rows do not fit the recipe “${recipe.name}”: ${faults[0] ?? ''}`;
    return {
      ...readingOfPlacements(placements, recipe.name, request),
      damage,
    };
  }
  const { format } = identify(bytes.subarray(0, 1024), path);
  if (format === 'tmx') return readTiles(request);
  if (format === 'tileset') return readTileSetFile(request);
  return readingOfPlacements(await openPlacements(request), '', request);
};

/** Placements of a table, by a sheet, by its recipe or by its own form. @throws ReadError */
export async function openPlacements({
  bytes,
  recipe,
  bySheet,
}: Pick<ReadRequest, 'bytes' | 'recipe' | 'bySheet'>): Promise<Placement[]> {
  if (bySheet) return bySheet.placements();
  return recipe ? placementsByRecipe(bytes, recipe).placements : placementsOf(parse(bytes));
}

/** @param request null where a sheet reads it, and nothing is known of what stands beside */
function readingOfPlacements(
  placements: readonly Placement[],
  recipe: string,
  request: ReadRequest | null,
): Reading {
  const besides = request && besidesOf(request);
  const classes: Record<string, number> = {};
  for (const { class: name } of placements) classes[name] = (classes[name] ?? 0) + 1;
  const boundsMetres = boundsOf(placements);
  return readingOf(
    {
      kind: 'map',
      placements: placements.length,
      classes,
      // What names none, such as a zone, needs none.
      models: [...new Set(placements.flatMap(({ model }) => model || []))].sort(),
      boundsMetres,
      tiles: null,
      recipe,
    },
    {
      preview: boundsMetres && plan(placements, boundsMetres),
      mentions: mentionsOf(placements, besides),
      decoded: [
        ...decodedPlacements(placements),
        request ? besidesPiece(besides, request.bytes) : new Uint8Array(0),
      ],
    },
  );
}

/** The order of placements, and how numbers are written, say nothing. */
function decodedPlacements(placements: readonly Placement[]): Uint8Array[] {
  const lines = placements.map(({ model, class: group, name, locator, position, rotation, scale }) => {
    // A rotation and its negative are the same turn.
    const sign = rotation[3] < 0 ? -1 : 1;
    const numbers = [...position, ...rotation.map((value) => value * sign), ...scale];
    return [
      model,
      group,
      name,
      locator,
      ...numbers.map((value) => (Math.round(value * 1e4) / 1e4 || 0).toString()),
    ].join(' ');
  });
  return [new TextEncoder().encode(`placements\n${lines.sort().join('\n')}`)];
}

function mentionsOf(placements: readonly Placement[], besides: Besides | null): Mention[] {
  const mentions = new Mentions();
  for (const { model } of placements) mentions.addPath(model, 'placement');
  // Its ground, its music: whatever is called as files are.
  for (const { key, value } of besides ?? [])
    if (formatByExtension(value) !== null) mentions.addValue(value, key);
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
