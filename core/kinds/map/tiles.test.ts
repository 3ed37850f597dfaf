import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { gzipSync, deflateSync } from 'node:zlib';
import { drawTiles } from './draw-tiles.ts';
import { readTileMap, readTileSet, type TileBlock } from './tile-map.ts';
import { cellPlace } from './tile-places.ts';

// What stands in these files is written by hand from the published description of the TMX map format, version 1.10.
const cells = [1, 2, 0, 0x80000001, 3, 0xe0000002];
const raw = Buffer.alloc(cells.length * 4);
cells.forEach((cell, at) => raw.writeUInt32LE(cell, at * 4));
const layer = (data: string): string => `<?xml version="1.0"?>
<map version="1.10" orientation="orthogonal" width="3" height="2" tilewidth="16" tileheight="8" infinite="0">
 <tileset firstgid="1" source="a.tsx"/>
 <tileset firstgid="3" name="own" tilewidth="16" tileheight="8" tilecount="4" columns="2"><image source="t.png" width="32" height="16"/></tileset>
 <layer id="1" name="ground" width="3" height="2" opacity="0.5">${data}</layer>
 <group><layer id="2" name="in a group" width="3" height="2" visible="0"><data encoding="csv">0,0,0,0,0,0</data></layer></group>
 <objectgroup name="things">
  <object id="9" name="door" type="exit" x="10" y="20"/>
  <object id="10" gid="${0x80000000 + 4}" x="5" y="6" rotation="90"/>
 </objectgroup>
</map>`;

describe('tile maps', () => {
  it('say the same as XML, CSV, Base64, gzip, zlib and zstd, and as JSON', async () => {
    const zstd = execFileSync('zstd', ['-c'], { input: raw });
    const packed = (compression: string, bytes: Buffer): string =>
      `<data encoding="base64" ${compression && `compression="${compression}"`}>\n  ${bytes.toString('base64')}\n</data>`;
    const ways = [
      `<data>${cells.map((gid) => (gid === 0 ? '<tile/>' : `<tile gid="${gid}"/>`)).join('')}</data>`,
      `<data encoding="csv">\n${cells.slice(0, 3).join(',')},\n${cells.slice(3).join(',')}\n</data>`,
      packed('', raw),
      packed('gzip', gzipSync(raw)),
      packed('zlib', deflateSync(raw)),
      packed('zstd', zstd),
    ];
    for (const way of ways)
      expect([...((await readTileMap(layer(way))).layers[0]?.blocks[0]?.cells ?? [])], way).to.deep.equal(
        cells,
      );
    const json = await readTileMap(
      JSON.stringify({
        width: 3,
        height: 2,
        tilewidth: 16,
        tileheight: 8,
        orientation: 'orthogonal',
        infinite: false,
        layers: [
          { type: 'tilelayer', name: 'ground', width: 3, height: 2, data: cells },
          { type: 'objectgroup', name: 'o', objects: [{ id: 1, name: 'x', class: 'y', x: 1, y: 2 }] },
        ],
        tilesets: [{ firstgid: 1, source: 'a.tsj' }],
      }),
    );
    expect([...(json.layers[0]?.blocks[0]?.cells ?? [])]).to.deep.equal(cells);
    expect(json.objects[0]).to.include({ name: 'x', class: 'y' });
    expect(json.sets[0]?.source).to.equal('a.tsj');
  });

  it('have layers in groups, sets of tiles here and elsewhere, and objects with a turn', async () => {
    const map = await readTileMap(layer(`<data encoding="csv">${cells.join(',')}</data>`));
    expect(map).to.include({ width: 3, height: 2, tileWidth: 16, tileHeight: 8 });
    expect(map.layers.map(({ name, isVisible, opacity }) => [name, isVisible, opacity])).to.deep.equal([
      ['ground', true, 0.5],
      ['in a group', false, 1],
    ]);
    expect(map.sets.map(({ source, name, image }) => [source, name, image])).to.deep.equal([
      ['a.tsx', '', null],
      [null, 'own', 't.png'],
    ]);
    expect(map.objects[0]).to.deep.include({ id: '9', name: 'door', class: 'exit', position: [10, 0, 20] });
    expect(map.objects[1]).to.include({ model: 'own', class: 'things' });
    expect(map.objects[1]?.rotation[1]).to.be.closeTo(-Math.SQRT1_2, 1e-12);
  });

  it('are drawn layer by layer, each as large as all together, those too that are hidden at first', async () => {
    const block = (x: number, tile: number): TileBlock => ({
      x,
      y: 0,
      width: 1,
      height: 1,
      cells: Uint32Array.of(tile),
    });
    const map = await readTileMap('<map width="2" height="1" tilewidth="1" tileheight="1"/>');
    map.layers.push(
      { name: 'below', isVisible: true, opacity: 1, blocks: [block(0, 1)] },
      { name: 'above', isVisible: false, opacity: 1, blocks: [block(1, 1)] },
    );
    const alphaOf = (only: number | null): number[] => {
      const drawn = drawTiles(map, () => null, 100, only);
      return [drawn?.rgba[3] ?? -1, drawn?.rgba[7] ?? -1];
    };
    expect(alphaOf(null)).to.deep.equal([255, 0]);
    expect(alphaOf(0)).to.deep.equal([255, 0]);
    expect(alphaOf(1)).to.deep.equal([0, 255]);
    expect(alphaOf(7)).to.deep.equal([0, 0]);
  });

  it('have chunks anywhere where they are endless', async () => {
    const map = await readTileMap(
      layer(
        '<data encoding="csv"><chunk x="-16" y="0" width="2" height="1">1,2</chunk><chunk x="0" y="0" width="2" height="1">2,1</chunk></data>',
      ),
    );
    expect(map.layers[0]?.blocks.map(({ x, width, cells: held }) => [x, width, [...held]])).to.deep.equal([
      [-16, 2, [1, 2]],
      [0, 2, [2, 1]],
    ]);
  });

  it('say what does not fit', async () => {
    const fails = async (text: string, message: RegExp): Promise<void> => {
      const error: unknown = await readTileMap(text).then(
        () => null,
        (reason: unknown) => reason,
      );
      expect((error as Error | null)?.message, text.slice(0, 60)).to.match(message);
    };
    await fails(
      layer('<data encoding="csv">1,2</data>'),
      /layer “ground”: 6 tiles were expected, there are 2/,
    );
    await fails(layer('<data encoding="base64" compression="gzip">AAAA</data>'), /gzip are damaged/);
    await fails(layer('<data encoding="base64" compression="lzma">AAAA</data>'), /lzma are not known/);
    await fails(layer('<data encoding="odd">x</data>'), /packed as odd/);
    await fails('<map width="3"></map>', /“height” should be a number/);
    await fails('<map', /not valid XML/);
    await fails('<other/>', /element <map> was expected/);
    await fails('<map width="100000" height="100000" tilewidth="1" tileheight="1"/>', /more than are read/);
  });

  it('are drawn with each flip as the format says: along the diagonal first, then to the side and upside down', async () => {
    // One tile of four colours: a b above, c d below.
    const [a, b, c, d] = [
      [255, 0, 0, 255],
      [0, 255, 0, 255],
      [0, 0, 255, 255],
      [255, 255, 0, 255],
    ] as const;
    const raster = { width: 2, height: 2, rgba: Uint8Array.from([...a, ...b, ...c, ...d]) };
    const draw = async (flags: number): Promise<number[][]> => {
      const map = await readTileMap(
        `<map width="1" height="1" tilewidth="2" tileheight="2"><layer width="1" height="1"><data encoding="csv">${flags + 1}</data></layer></map>`,
      );
      const drawn = drawTiles(
        map,
        () => ({ raster, x: 0, y: 0, width: 2, height: 2, offset: { x: 0, y: 0 } }),
        100,
      );
      return [0, 1, 2, 3].map((at) => [...(drawn?.rgba.subarray(at * 4, at * 4 + 4) ?? [])]);
    };
    expect(await draw(0)).to.deep.equal([a, b, c, d]);
    expect(await draw(0x80000000)).to.deep.equal([b, a, d, c]);
    expect(await draw(0x40000000)).to.deep.equal([c, d, a, b]);
    // Along the diagonal: x and y change places.
    expect(await draw(0x20000000)).to.deep.equal([a, c, b, d]);
    // Turned clockwise by 90 degrees: along the diagonal, then to the side.
    expect(await draw(0xa0000000)).to.deep.equal([c, a, d, b]);
  });

  // Places by hand, from the published description of the TMX map format, version 1.10.
  it('stand as rhombs, and with every second row or column moved on by half', async () => {
    const placesOf = async (attributes: string): Promise<number[][]> => {
      const map = await readTileMap(`<map width="2" height="2" tilewidth="8" tileheight="4" ${attributes}/>`);
      return [
        [0, 0],
        [1, 0],
        [0, 1],
        [1, 1],
      ].map(([column = 0, row = 0]) => {
        const { x, y } = cellPlace(map, column, row);
        return [x, y];
      });
    };
    expect(await placesOf('')).to.deep.equal([
      [0, 0],
      [8, 0],
      [0, 4],
      [8, 4],
    ]);
    expect(await placesOf('orientation="isometric"')).to.deep.equal([
      [0, 0],
      [4, 2],
      [-4, 2],
      [0, 4],
    ]);
    expect(await placesOf('orientation="staggered"')).to.deep.equal([
      [0, 0],
      [8, 0],
      [4, 2],
      [12, 2],
    ]);
    expect(await placesOf('orientation="staggered" staggerindex="even"')).to.deep.equal([
      [4, 0],
      [12, 0],
      [0, 2],
      [8, 2],
    ]);
    expect(await placesOf('orientation="staggered" staggeraxis="x"')).to.deep.equal([
      [0, 0],
      [4, 2],
      [0, 4],
      [4, 6],
    ]);
    expect(await placesOf('orientation="hexagonal" hexsidelength="2"')).to.deep.equal([
      [0, 0],
      [8, 0],
      [4, 3],
      [12, 3],
    ]);
    expect(await placesOf('orientation="hexagonal" staggeraxis="x" hexsidelength="4"')).to.deep.equal([
      [0, 0],
      [6, 2],
      [0, 4],
      [6, 6],
    ]);
  });

  it('of rhombs are as large as all of them together, and each is drawn where it stands', async () => {
    const map = await readTileMap(
      `<map orientation="isometric" width="3" height="2" tilewidth="8" tileheight="4"><layer width="3" height="2"><data encoding="csv">1,0,0,0,0,2</data></layer></map>`,
    );
    const drawn = drawTiles(map, () => null, 1000);
    if (!drawn) throw new Error('nothing');
    // Half of the columns and rows together, across and down.
    expect([drawn.width, drawn.height]).to.deep.equal([20, 10]);
    const alphaAt = (x: number, y: number): number => drawn.rgba[(y * drawn.width + x) * 4 + 3] ?? -1;
    // The first one’s middle is at 4 + 4, its corner is clear; the last one’s is three half widths less one further on.
    expect([alphaAt(8, 2), alphaAt(4, 0), alphaAt(12, 7), alphaAt(8, 7)]).to.deep.equal([255, 0, 255, 0]);
  });

  it('are drawn in the size of their pictures, from the lower left corner of their cells', async () => {
    const map = await readTileMap(
      `<map width="2" height="1" tilewidth="4" tileheight="4"><tileset firstgid="1" tilewidth="4" tileheight="10"><tileoffset x="1" y="-1"/></tileset><layer width="2" height="1"><data encoding="csv">0,1</data></layer></map>`,
    );
    expect(map.sets[0]?.offset).to.deep.equal({ x: 1, y: -1 });
    const raster = { width: 2, height: 7, rgba: new Uint8Array(56).fill(255) };
    const drawn = drawTiles(
      map,
      () => ({ raster, x: 0, y: 0, width: 2, height: 7, offset: { x: 1, y: -1 } }),
      1000,
    );
    if (!drawn) throw new Error('nothing');
    expect([drawn.width, drawn.height]).to.deep.equal([8, 10]);
    const seen: number[][] = [];
    for (let y = 0; y < 10; y++)
      for (let x = 0; x < 8; x++) if (drawn.rgba[(y * 8 + x) * 4 + 3] === 255) seen.push([x, y]);
    expect(seen).to.deep.equal(
      [2, 3, 4, 5, 6, 7, 8].flatMap((y) => [
        [5, y],
        [6, y],
      ]),
    );
  });

  it('whose pictures cover one another without end are not drawn, and that is known at once', async () => {
    const cellsOfOne = Array.from({ length: 250_000 }, () => 1).join();
    const map = await readTileMap(
      `<map width="500" height="500" tilewidth="4" tileheight="4"><layer width="500" height="500"><data encoding="csv">${cellsOfOne}</data></layer></map>`,
    );
    const raster = { width: 2000, height: 2000, rgba: new Uint8Array(16_000_000) };
    const huge = { raster, x: 0, y: 0, width: 2000, height: 2000, offset: { x: 0, y: 0 } };
    const beganMs = Date.now();
    let asked = 0;
    const drawn = drawTiles(map, () => (asked++ < 5 ? null : huge), 2000);
    expect(drawn).to.equal(null);
    expect(asked).to.be.below(200);
    expect(Date.now() - beganMs).to.be.below(60_000);
    // What fits its cells is drawn, however many there are.
    expect(drawTiles(map, () => null, 2000)?.width).to.equal(2000);
  });

  it('read sets of tiles that stand by themselves, with a picture to each tile too', () => {
    const set = readTileSet(
      '<tileset name="s" tilewidth="16" tileheight="16" tilecount="2" columns="0" spacing="1" margin="2"><tile id="0"><image source="a.png"/></tile><tile id="5"><image source="b.png"/></tile></tileset>',
    );
    expect([...set.images]).to.deep.equal([
      [0, 'a.png'],
      [5, 'b.png'],
    ]);
    expect(set).to.include({ spacing: 1, margin: 2, image: null });
  });
});
