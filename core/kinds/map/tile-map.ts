import { gunzipSync, unzlibSync } from 'fflate';
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import type { Placement } from '../../../contract/facts.ts';
import { ReadError } from '../reading.ts';

/** A set of tiles: one picture cut into a grid, or a picture to each tile. */
export interface TileSet {
  /** Number of its first tile on the map. */
  firstTile: number;
  name: string;
  /** File that describes it, where that is another one. */
  source: string | null;
  image: string | null;
  /** By the tile's number in the set, where each has a picture of its own. */
  images: Map<number, string>;
  tileWidth: number;
  tileHeight: number;
  columns: number;
  tileCount: number;
  spacing: number;
  margin: number;
  /** How far its tiles are drawn from their places, in pixels: to the right and down. */
  offset: { x: number; y: number };
}

/** Tiles of a layer in a rectangle; `cells` holds numbers with their flips in the three highest bits, 0 for none. */
export interface TileBlock {
  x: number;
  y: number;
  width: number;
  height: number;
  cells: Uint32Array;
}

export interface TileMap {
  width: number;
  height: number;
  tileWidth: number;
  tileHeight: number;
  orientation: string;
  /** Which rows (axis y) or columns (axis x) are moved on by half where tiles are staggered, and how long a side of a hexagon is. */
  stagger: { axis: 'x' | 'y'; index: 'odd' | 'even'; sidePixels: number };
  layers: { name: string; isVisible: boolean; opacity: number; blocks: TileBlock[] }[];
  sets: TileSet[];
  /** Things that stand on it: positions are pixels, x to the right and z down. */
  objects: Placement[];
}

/** Clears the bits that flip and turn a tile (TMX map format, “Tile flipping”). */
export const tileMask = 0x0fffffff;

/** More tiles would not fit into memory. */
const mostCells = 64_000_000;

type Node = Readonly<Record<string, unknown>>;

/**
 * Reads a tile map of TMX, as XML or as JSON (TMX map format 1.10: layers as XML, CSV or Base64, packed by gzip, zlib or
 * zstd, in chunks or whole).
 * @throws ReadError that says what was expected
 */
export async function readTileMap(text: string): Promise<TileMap> {
  const root = rootOf(text, 'map');
  const map: TileMap = {
    width: numberOf(root, 'width'),
    height: numberOf(root, 'height'),
    tileWidth: numberOf(root, 'tilewidth'),
    tileHeight: numberOf(root, 'tileheight'),
    orientation: textOf(root, 'orientation') || 'orthogonal',
    stagger: {
      axis: textOf(root, 'staggeraxis') === 'x' ? 'x' : 'y',
      index: textOf(root, 'staggerindex') === 'even' ? 'even' : 'odd',
      sidePixels: numberOf(root, 'hexsidelength', 0),
    },
    layers: [],
    sets: listOf(root, 'tileset', 'tilesets').map(tileSet),
    objects: [],
  };
  if (map.width * map.height > mostCells)
    throw new ReadError(`it says that it has ${map.width} × ${map.height} tiles, more than are read`);
  await readLayers(root, map);
  return map;
}

/** Reads a set of tiles that stands in a file of its own (TSX, as XML or as JSON). @throws ReadError */
export function readTileSet(text: string): TileSet {
  return tileSet(rootOf(text, 'tileset'));
}

/** XML and JSON say the same: attributes are keys, children are lists of them. */
function rootOf(text: string, name: string): Node {
  const body = text.replace(/^\ufeff/, '');
  if (/^\s*\{/.test(body)) {
    try {
      return JSON.parse(body) as Node;
    } catch (error) {
      throw new ReadError(
        `this is not valid JSON: ${error instanceof Error ? error.message : String(error)}`,
      );
    }
  }
  const checked = XMLValidator.validate(body);
  if (checked !== true)
    throw new ReadError(
      `this is not valid XML: line ${checked.err.line}, column ${checked.err.col}: ${checked.err.msg}`,
    );
  // Entities of the document's own are not taken: they can grow without bounds.
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '',
    processEntities: false,
    parseTagValue: false,
    parseAttributeValue: false,
    alwaysCreateTextNode: true,
  });
  const root = (parser.parse(body) as Record<string, unknown>)[name];
  if (typeof root !== 'object' || root === null)
    throw new ReadError(`an element <${name}> was expected at the root`);
  return root as Node;
}

/** Children by the name that XML gives them, or by the one of JSON's list. */
function listOf(node: Node, element: string, key: string): Node[] {
  const value = node[key] ?? node[element];
  const list = Array.isArray(value) ? value : value === undefined ? [] : [value];
  return list.filter((item): item is Node => typeof item === 'object' && item !== null);
}

function textOf(node: Node, name: string): string {
  const value = node[name];
  return typeof value === 'string' ? value : typeof value === 'number' ? String(value) : '';
}

/** @throws ReadError where there is none and no `usual` one */
function numberOf(node: Node, name: string, usual?: number): number {
  const value = node[name];
  const number = value === undefined ? usual : Number(value);
  if (number === undefined || !Number.isFinite(number)) throw new ReadError(`“${name}” should be a number`);
  return number;
}

function tileSet(node: Node): TileSet {
  const image = node.image;
  const [offset] = listOf(node, 'tileoffset', 'tileoffset');
  const images = new Map<number, string>();
  for (const tile of listOf(node, 'tile', 'tiles')) {
    const own = imageOf(tile.image);
    if (own !== null) images.set(numberOf(tile, 'id'), own);
  }
  return {
    firstTile: numberOf(node, 'firstgid', 1),
    name: textOf(node, 'name'),
    source: textOf(node, 'source') || null,
    image: imageOf(image),
    images,
    tileWidth: numberOf(node, 'tilewidth', 0),
    tileHeight: numberOf(node, 'tileheight', 0),
    columns: numberOf(node, 'columns', 0),
    tileCount: numberOf(node, 'tilecount', 0),
    spacing: numberOf(node, 'spacing', 0),
    margin: numberOf(node, 'margin', 0),
    offset: { x: numberOf(offset ?? {}, 'x', 0), y: numberOf(offset ?? {}, 'y', 0) },
  };
}

function imageOf(image: unknown): string | null {
  if (typeof image === 'string') return image;
  if (typeof image !== 'object' || image === null) return null;
  return textOf(image as Node, 'source') || null;
}

async function readLayers(node: Node, map: TileMap): Promise<void> {
  const layers =
    node.layers !== undefined
      ? listOf(node, '', 'layers')
      : [
          ...listOf(node, 'layer', ' ').map((layer) => ({ ...layer, type: 'tilelayer' })),
          ...listOf(node, 'objectgroup', ' ').map((layer) => ({ ...layer, type: 'objectgroup' })),
          ...listOf(node, 'group', ' ').map((layer) => ({ ...layer, type: 'group' })),
        ];
  for (const layer of layers as Node[]) {
    const type = textOf(layer, 'type');
    if (type === 'group') await readLayers(layer, map);
    else if (type === 'objectgroup') readObjects(layer, map);
    else if (type === 'tilelayer')
      map.layers.push({
        name: textOf(layer, 'name'),
        isVisible: !['0', 'false'].includes(
          typeof layer.visible === 'boolean' ? String(layer.visible) : textOf(layer, 'visible'),
        ),
        opacity: numberOf(layer, 'opacity', 1),
        blocks: await blocksOf(layer, map),
      });
  }
}

async function blocksOf(layer: Node, map: TileMap): Promise<TileBlock[]> {
  const data = layer.data;
  const holder: Node =
    typeof data === 'object' && data !== null && !Array.isArray(data) ? (data as Node) : layer;
  const packing = { encoding: textOf(holder, 'encoding'), compression: textOf(holder, 'compression') };
  const chunks = listOf(holder, 'chunk', 'chunks');
  if (chunks.length > 0)
    return Promise.all(
      chunks.map(async (chunk) => {
        const [width, height] = [numberOf(chunk, 'width'), numberOf(chunk, 'height')];
        if (width * height > mostCells)
          throw new ReadError(`a chunk of ${width} × ${height} tiles is more than is read`);
        return {
          x: numberOf(chunk, 'x'),
          y: numberOf(chunk, 'y'),
          width,
          height,
          cells: await cellsOf(chunk.data ?? chunk, width * height, packing, layer),
        };
      }),
    );
  const [width, height] = [numberOf(layer, 'width', map.width), numberOf(layer, 'height', map.height)];
  if (width * height > mostCells)
    throw new ReadError(`a layer of ${width} × ${height} tiles is more than is read`);
  return [{ x: 0, y: 0, width, height, cells: await cellsOf(data, width * height, packing, layer) }];
}

async function cellsOf(
  data: unknown,
  count: number,
  { encoding, compression }: { encoding: string; compression: string },
  layer: Node,
): Promise<Uint32Array> {
  const cells = await decodedCells(data, encoding, compression, count);
  if (cells.length !== count)
    throw new ReadError(
      `layer “${textOf(layer, 'name')}”: ${count.toLocaleString('en')} tiles were expected, there are ${cells.length.toLocaleString('en')}`,
    );
  return cells;
}

async function decodedCells(
  data: unknown,
  encoding: string,
  compression: string,
  count: number,
): Promise<Uint32Array> {
  if (Array.isArray(data)) return Uint32Array.from(data as number[]);
  const text =
    typeof data === 'string'
      ? data
      : typeof data === 'object' && data !== null
        ? textOf(data as Node, '#text')
        : '';
  if (encoding === 'csv') return Uint32Array.from(text.split(','), (part) => Number(part.trim()));
  if (encoding === 'base64') {
    const packed = Uint8Array.from(atob(text.replace(/\s+/g, '')), (letter) => letter.charCodeAt(0));
    const bytes = await unpack(packed, compression, count * 4);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    return Uint32Array.from({ length: bytes.length >> 2 }, (_, at) => view.getUint32(at * 4, true));
  }
  if (encoding !== '') throw new ReadError(`tiles packed as ${encoding} are not known`);
  return Uint32Array.from(listOf(data as Node, 'tile', 'tiles'), (tile) => numberOf(tile, 'gid', 0));
}

/** @param size bytes that should come out: what promises less and gives more is not followed */
async function unpack(packed: Uint8Array, compression: string, size: number): Promise<Uint8Array> {
  const out = new Uint8Array(size);
  try {
    switch (compression) {
      case '':
        return packed;
      case 'gzip':
        return gunzipSync(packed, { out });
      case 'zlib':
        return unzlibSync(packed, { out });
      case 'zstd': {
        const { ZSTDDecoder } = await import('zstddec');
        const decoder = new ZSTDDecoder();
        await decoder.init();
        return decoder.decode(packed, size);
      }
    }
  } catch (error) {
    throw new ReadError(
      `tiles compressed by ${compression} are damaged: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  throw new ReadError(`tiles compressed by ${compression} are not known`);
}

function readObjects(layer: Node, map: TileMap): void {
  for (const item of listOf(layer, 'object', 'objects')) {
    const tile = numberOf(item, 'gid', 0) & tileMask;
    const set = [...map.sets].reverse().find(({ firstTile }) => tile >= firstTile);
    const turn = (numberOf(item, 'rotation', 0) * Math.PI) / 360;
    map.objects.push({
      id: textOf(item, 'id') || String(map.objects.length + 1),
      model: textOf(item, 'template') || (tile > 0 && set ? (set.source ?? set.name) : ''),
      // It was called type before 1.9, and after it; class between.
      class: textOf(item, 'class') || textOf(item, 'type') || textOf(layer, 'name') || 'object',
      name: textOf(item, 'name'),
      locator: '',
      position: [numberOf(item, 'x', 0), 0, numberOf(item, 'y', 0)],
      // Clockwise seen from above: about the downward axis.
      rotation: [0, -Math.sin(turn) || 0, 0, Math.cos(turn)],
      scale: [1, 1, 1],
    });
  }
}
