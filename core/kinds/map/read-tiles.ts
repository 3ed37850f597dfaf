import { besidesOf, besidesPiece } from './besides.ts';
import type { MapFacts } from '../../../contract/facts.ts';
import { Mentions } from '../mentions.ts';
import { previewSize, readingOf, type Raster, type ReadRequest, type Reading } from '../reading.ts';
import { drawTiles, type TilePicture } from './draw-tiles.ts';
import {
  readTileMap,
  readTileSet,
  tileMask,
  type TileBlock,
  type TileMap,
  type TileSet,
} from './tile-map.ts';

const decoder = new TextDecoder();
/** Pictures of tiles are looked at up to this size; larger ones would have to be scaled, and the grid with them. */
const largestPicture = 8192;

/** Of more layers facts have no names. */
const mostLayersTold = 500;
const mostLettersOfName = 200;

/** How many tiles are set. */
function setIn(blocks: readonly TileBlock[]): number {
  let set = 0;
  for (const { cells } of blocks) for (const cell of cells) if ((cell & tileMask) !== 0) set++;
  return set;
}

/** Reads a tile map with the files that it names. @throws ReadError */
export async function readTiles(request: ReadRequest): Promise<Reading> {
  const { map, raster } = await openTiles(request, previewSize);
  const eachLayer = map.layers.slice(0, mostLayersTold).map(({ name, isVisible, blocks }) => ({
    ...{ name: name.slice(0, mostLettersOfName), isVisible, set: setIn(blocks) },
  }));
  const set = map.layers.reduce((sum, { blocks }) => sum + setIn(blocks), 0);
  const facts: MapFacts = {
    kind: 'map',
    placements: map.objects.length,
    classes: countsOf(map.objects.map((item) => item.class)),
    models: [...new Set(map.sets.flatMap(namesOf))].sort(),
    boundsMetres: null,
    recipe: '',
    tiles: {
      width: map.width,
      height: map.height,
      tileWidth: map.tileWidth,
      tileHeight: map.tileHeight,
      layers: map.layers.length,
      set,
      orientation: map.orientation,
      eachLayer,
    },
  };
  const mentions = new Mentions();
  for (const { model } of map.objects) if (model !== '') mentions.addPath(model, 'object');
  const cells = map.layers.flatMap(({ name, blocks }) => [
    new TextEncoder().encode(`${name}\n`),
    ...blocks.map(
      (block) => new Uint8Array(block.cells.buffer, block.cells.byteOffset, block.cells.byteLength),
    ),
  ]);
  return readingOf(facts, {
    preview: raster,
    mentions: mentions.list(),
    decoded: [
      new TextEncoder().encode(`tiles ${map.width} ${map.height}\n${JSON.stringify(map.objects)}\n`),
      ...cells,
      besidesPiece(besidesOf(request), request.bytes),
    ],
  });
}

/** Facts of a set of tiles that stands by itself. @throws ReadError */
export async function readTileSetFile(request: ReadRequest): Promise<Reading> {
  const set = readTileSet(decoder.decode(request.bytes));
  const raster = set.image === null ? null : await pictureAt(request, set.image, previewSize);
  const facts: MapFacts = {
    kind: 'map',
    placements: 0,
    classes: {},
    models: namesOf({ ...set, source: null }),
    boundsMetres: null,
    recipe: '',
    tiles: {
      width: set.columns,
      height: set.columns > 0 ? Math.ceil(set.tileCount / set.columns) : 0,
      tileWidth: set.tileWidth,
      tileHeight: set.tileHeight,
      layers: 0,
      set: set.tileCount,
      orientation: 'set of tiles',
      eachLayer: [],
    },
  };
  const mentions = new Mentions();
  for (const image of facts.models) mentions.addPath(image, 'image');
  return readingOf(facts, { preview: raster, mentions: mentions.list() });
}

/**
 * The map with its sets of tiles filled in, and drawn.
 * @param layer the one that is drawn, by its place; null for all that are seen at first
 * @throws ReadError
 */
export async function openTiles(
  request: ReadRequest,
  most: number,
  layer: number | null = null,
): Promise<{ map: TileMap; raster: Raster | null }> {
  const map = await readTileMap(decoder.decode(request.bytes));
  const pictures = new Map<string, Raster | null>();
  const load = async (image: string): Promise<void> => {
    if (!pictures.has(image)) pictures.set(image, await pictureAt(request, image));
  };
  for (const [at, set] of map.sets.entries()) {
    if (set.source !== null) {
      const bytes = await request.resolve(set.source);
      if (!bytes) continue;
      const folder = set.source.slice(0, set.source.lastIndexOf('/') + 1);
      const outer = readTileSet(decoder.decode(bytes));
      // Its pictures count from its own folder.
      map.sets[at] = {
        ...outer,
        firstTile: set.firstTile,
        source: set.source,
        image: outer.image === null ? null : folder + outer.image,
        images: new Map([...outer.images].map(([tile, image]) => [tile, folder + image])),
      };
    }
    const filled = map.sets[at] ?? set;
    if (filled.image !== null) await load(filled.image);
    for (const image of filled.images.values()) await load(image);
  }
  const sets = [...map.sets].sort((a, b) => b.firstTile - a.firstTile);
  return { map, raster: drawTiles(map, (tile) => pictureOf(tile, sets, pictures), most, layer) };
}

/** @param sets the last first */
function pictureOf(
  tile: number,
  sets: readonly TileSet[],
  pictures: ReadonlyMap<string, Raster | null>,
): TilePicture | null {
  const set = sets.find(({ firstTile }) => tile >= firstTile);
  if (!set) return null;
  const number = tile - set.firstTile;
  const own = set.images.get(number);
  const raster = pictures.get(own ?? set.image ?? '') ?? null;
  if (!raster) return null;
  const { tileWidth: width, tileHeight: height, spacing, margin, offset } = set;
  if (own !== undefined) return { raster, x: 0, y: 0, width: raster.width, height: raster.height, offset };
  if (width <= 0 || height <= 0) return null;
  const columns =
    set.columns > 0
      ? set.columns
      : Math.max(1, Math.floor((raster.width - 2 * margin + spacing) / (width + spacing)));
  return {
    raster,
    x: margin + (number % columns) * (width + spacing),
    y: margin + Math.floor(number / columns) * (height + spacing),
    ...{ width, height, offset },
  };
}

async function pictureAt(request: ReadRequest, image: string, most = largestPicture): Promise<Raster | null> {
  const bytes = await request.resolve(image);
  if (!bytes) return null;
  try {
    return await request.raster(bytes, most);
  } catch {
    // A picture that cannot be read has a problem of its own; the map is drawn without it.
    return null;
  }
}

function namesOf({ source, image, images }: TileSet): string[] {
  return source === null ? [...(image === null ? [] : [image]), ...images.values()] : [source];
}

function countsOf(names: readonly string[]): Record<string, number> {
  const counts: Record<string, number> = {};
  for (const name of names) counts[name] = (counts[name] ?? 0) + 1;
  return counts;
}
