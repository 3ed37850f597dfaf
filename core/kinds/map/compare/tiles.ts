import type { MapDetail } from '../../../../contract/comparisons.ts';
import { plural } from '../../../figures.ts';
import { figure, sentenceOf, type Outcome } from '../../comparing.ts';
import { previewSize, ReadError, type Raster, type ReadRequest } from '../../reading.ts';
import { identify } from '../../identify.ts';
import { besidesOf, compareBesides, hasOtherRows } from '../besides.ts';
import { openTiles } from '../read-tiles.ts';
import type { TileMap } from '../tile-map.ts';
import { compareScenes } from './scenes.ts';

const tint = [196, 72, 32] as const;

/** Compares two tile maps cell by cell, layers by their names, and the things that stand on them. @throws ReadError */
export async function compareTileMaps(oldRequest: ReadRequest, newRequest: ReadRequest): Promise<Outcome> {
  for (const { bytes, path } of [oldRequest, newRequest])
    if (identify(bytes.subarray(0, 1024), path).format === 'tileset')
      throw new ReadError('sets of tiles have no cells to compare: their pictures are what differs');
  const { map: old } = await openTiles(oldRequest, previewSize);
  const { map: now, raster } = await openTiles(newRequest, previewSize);
  const [before, after] = [cellsOf(old), cellsOf(now)];
  const changed = new Set<string>();
  const tiles: MapDetail['tiles'] = [];
  for (const layer of new Set([...before.keys(), ...after.keys()])) {
    const [a, b] = [
      before.get(layer) ?? new Map<string, number>(),
      after.get(layer) ?? new Map<string, number>(),
    ];
    let count = 0;
    for (const place of new Set([...a.keys(), ...b.keys()])) {
      if ((a.get(place) ?? 0) === (b.get(place) ?? 0)) continue;
      count++;
      changed.add(place);
    }
    if (count > 0) tiles.push({ layer, changed: count });
  }
  const { changes } = compareScenes(old.objects, now.objects);
  const cells = tiles.reduce((sum, layer) => sum + layer.changed, 0);
  const classes: MapDetail['classes'] = {};
  for (const { class: name, status } of changes)
    (classes[name] ??= {})[status] = (classes[name]?.[status] ?? 0) + 1;
  const size = ({ width, height }: TileMap): string => `${width} × ${height} tiles`;
  const besides = compareBesides(besidesOf(oldRequest), besidesOf(newRequest), hasOtherRows(changes));
  const isSame = cells + changes.length === 0;
  const [first] = tiles;
  return {
    comparison: {
      kind: 'map',
      nature: isSame && besides.sentences.length === 0 ? 'rewritten' : 'other',
      extent: Math.min(
        1,
        cells / Math.max(1, now.width * now.height) +
          changes.length / Math.max(1, old.objects.length, now.objects.length) +
          (besides.sentences.length > 0 ? 0.002 : 0),
      ),
      sentence: sentenceOf([
        ...(isSame
          ? [besides.sentences.length > 0 ? 'the same tiles' : 'the same tiles, written otherwise']
          : [
              ...(cells > 0
                ? [
                    `${plural(cells, 'tile')} set otherwise, ${tiles.length === 1 ? `in ${first?.layer ?? ''}` : `in ${tiles.length} layers`}`,
                  ]
                : []),
              ...(changes.length > 0 ? [`${plural(changes.length, 'thing')} on it changed`] : []),
            ]),
        ...besides.sentences,
      ]),
      figures: [
        ...figure('size', size(old), size(now)),
        ...figure('layers', old.layers.length, now.layers.length),
        ...figure('things on it', old.objects.length, now.objects.length),
        ...tiles.map(({ layer, changed: count }) => ({
          name: `tiles of ${layer}`,
          old: '',
          new: `${count.toLocaleString('en')} set otherwise`,
        })),
        ...besides.figures,
      ],
      detail: {
        kind: 'map',
        changes: changes.slice(0, 1000),
        total: changes.length,
        classes,
        firstModels: [],
        goneModels: [],
        tiles,
      },
    },
    picture: raster && tinted(raster, now, changed),
  };
}

/** Numbers with their flips, by layer and then by place; nothing of empty cells. */
function cellsOf({ layers }: TileMap): Map<string, Map<string, number>> {
  const result = new Map<string, Map<string, number>>();
  for (const { name, blocks } of layers) {
    const cells = result.get(name) ?? new Map<string, number>();
    for (const { x, y, width, cells: numbers } of blocks)
      numbers.forEach((number, at) => {
        if (number !== 0) cells.set(`${x + (at % width)} ${y + Math.floor(at / width)}`, number);
      });
    result.set(name, cells);
  }
  return result;
}

function tinted(raster: Raster, { width, height }: TileMap, places: ReadonlySet<string>): Raster {
  const rgba = new Uint8Array(raster.rgba);
  for (const place of places) {
    const [x = 0, y = 0] = place.split(' ').map(Number);
    const edge = (cell: number, cells: number, size: number): number => Math.round((cell * size) / cells);
    for (let row = edge(y, height, raster.height); row < edge(y + 1, height, raster.height); row++)
      for (let column = edge(x, width, raster.width); column < edge(x + 1, width, raster.width); column++) {
        const at = (row * raster.width + column) * 4;
        if (at < 0 || at + 3 >= rgba.length) continue;
        for (let channel = 0; channel < 3; channel++)
          rgba[at + channel] = ((rgba[at + channel] ?? 0) + (tint[channel] ?? 0)) / 2;
        rgba[at + 3] = 255;
      }
  }
  return { width: raster.width, height: raster.height, rgba };
}
