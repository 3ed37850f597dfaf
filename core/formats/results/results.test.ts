import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { fieldsOf, readBySheet, sheetOf } from '../../../tests/support/by-sheet.ts';
import { failureOf } from '../../../tests/support/failure.ts';
import { bySheet } from '../by-sheet.ts';
import type { OpenSheet } from '../open-sheet.ts';
import { readFields } from '../read-by-sheet.ts';

const withResult = (root: string, result: string, more = ''): OpenSheet =>
  sheetOf(
    `sheet: Test\nlanguage: 1\nfiles: '*'\n${more}\nroot:\n${root.replace(/^/gm, '  ')}\nresult:\n${result.replace(/^/gm, '  ')}\n`,
  );
const reading = (sheet: OpenSheet, bytes: Uint8Array, files: Record<string, Uint8Array> = {}) =>
  bySheet(sheet, null, { bytes, path: 'x.bin', resolve: (name) => Promise.resolve(files[name] ?? null) });
const floats = (...values: number[]): Buffer => Buffer.from(Float32Array.from(values).buffer);
const bytes = (...values: number[]): Buffer => Buffer.from(values);

describe('What comes out of a sheet', () => {
  describe('a picture', () => {
    const red = async (result: string, data: Uint8Array, root = 'pixels: bytes'): Promise<number[]> => {
      const picture = await reading(
        withResult(root, `picture: { width: 4, height: 4, pixels: pixels, ${result} }`),
        data,
      ).picture();
      const { data: rgba } = await picture.image();
      return Array.from(rgba).filter((_, at) => at % 4 === 0);
    };
    const sixteen = bytes(...Array.from({ length: 16 }, (_, at) => at));
    const rows = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15];

    it('has rows from above or below, and longer than their pixels', async () => {
      expect(await red('format: r8', sixteen)).to.deep.equal(rows);
      expect(await red('format: r8, rows: up', sixteen)).to.deep.equal([
        ...rows.slice(12),
        ...rows.slice(8, 12),
        ...rows.slice(4, 8),
        ...rows.slice(0, 4),
      ]);
      const wide = Buffer.concat(
        [0, 4, 8, 12].map((at) => Buffer.concat([sixteen.subarray(at, at + 4), bytes(99, 99)])),
      );
      expect(await red('format: r8, rowBytes: 6', wide)).to.deep.equal(rows);
    });

    it('lies in tiles, or along a Z curve (Morton)', async () => {
      // Tiles of 2 x 2: 0 1 4 5 are the first.
      expect(
        await red(
          'format: r8, tiles: { width: 2, height: 2 }',
          bytes(0, 1, 4, 5, 2, 3, 6, 7, 8, 9, 12, 13, 10, 11, 14, 15),
        ),
      ).to.deep.equal(rows);
      expect(
        await red('format: r8, morton: true', bytes(0, 1, 4, 5, 2, 3, 6, 7, 8, 9, 12, 13, 10, 11, 14, 15)),
      ).to.deep.equal(rows);
    });

    it('has a palette of 1 to 8 bits, and channels in another order', async () => {
      const root = 'colours: bytes(12)\npixels: bytes';
      const colours = bytes(10, 0, 0, 20, 0, 0, 30, 0, 0, 40, 0, 0);
      const palette = 'format: r8, palette: { colours: colours, format: rgb8 }';
      expect(
        await red(`${palette}, indexBits: 2`, Buffer.concat([colours, bytes(0x1b, 0, 0, 0xff)]), root),
      ).to.deep.equal([10, 20, 30, 40, 10, 10, 10, 10, 10, 10, 10, 10, 40, 40, 40, 40]);
      expect(
        await red(
          `${palette}, indexBits: 4`,
          Buffer.concat([colours, bytes(0x01, 0x23, 0, 0, 0, 0, 0, 0)]),
          root,
        ),
      ).to.deep.equal([10, 20, 30, 40, ...rows.slice(4).map(() => 10)]);
      const bgra = Buffer.concat(rows.map((value) => bytes(1, 2, value, 4)));
      expect(await red('format: rgba8, swizzle: bgra', bgra)).to.deep.equal(rows);
    });

    it('has mips and layers in either order, and says where bytes are missing', async () => {
      const of = (more: string, size: number) =>
        reading(
          withResult(
            'pixels: bytes',
            `picture: { width: 2, height: 2, format: r8, pixels: pixels, levels: 2, layers: 2, ${more} }`,
          ),
          bytes(...rows.slice(0, size)),
        ).picture();
      const layered = await of('order: layers', 10);
      const byLevels = await of('order: levels', 10);
      expect((await layered.image({ layer: 1, level: 0 })).data[0]).to.equal(5);
      expect((await layered.image({ layer: 1, level: 1 })).data[0]).to.equal(9);
      expect((await byLevels.image({ layer: 1, level: 0 })).data[0]).to.equal(4);
      expect((await byLevels.image({ layer: 1, level: 1 })).data[0]).to.equal(9);
      expect((await failureOf(of('order: layers', 9))).message).to.include(
        'its pixels need 10 bytes, and there are 9',
      );
      const huge = reading(
        withResult('a: u8', 'picture: { width: 1000000, height: 1000000, format: r8, pixels: file }'),
        bytes(1),
      );
      expect((await failureOf(huge.picture())).message).to.include('a size of 1000000 x 1000000 pixels');
    });

    it('is read as the first example of the docs says', async () => {
      const text = readFileSync(join(import.meta.dirname, '..', '..', '..', 'docs', 'formats.md'), 'utf8');
      const [, example = ''] = /```yaml\n(sheet: Reed texture[^`]*)```/.exec(text) ?? [];
      const packed = deflateSync(Buffer.alloc(6 * 4, 7));
      const head = Buffer.from('RTEX\x03\x00\x02\x00\x00\x01', 'latin1');
      const size = Buffer.alloc(4);
      size.writeUInt32LE(packed.length);
      const picture = await readBySheet(
        sheetOf(example),
        'sheet-picture',
        Buffer.concat([head, size, packed]),
        'a.rtex',
      );
      expect(picture.facts).to.deep.include({
        kind: 'picture',
        width: 3,
        height: 2,
        sheet: { name: 'Reed texture', version: '' },
      });
      const cut = await failureOf(
        readBySheet(
          sheetOf(example),
          'sheet-picture',
          Buffer.concat([head, size, packed.subarray(0, 5)]),
          'a.rtex',
        ),
      );
      expect(cut.message).to.include('at 0xE: pixels: ');
    });
  });

  describe('a model', () => {
    const root = `positions: f32[12]
joints: u8[4]
indices: u16[4]
turns: f32[8]`;
    const data = Buffer.concat([
      floats(0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0),
      bytes(0, 1, 1, 0),
      Buffer.from(Uint16Array.from([0, 1, 2, 3]).buffer),
      floats(0, 0, 0, 1, 0, 0, Math.SQRT1_2, Math.SQRT1_2),
    ]);
    const parts = (more: string): string =>
      `parts: [{ name: "'sail'", positions: positions, indices: indices, ${more} }]`;

    it('has triangles of strips, fans and polygons', async () => {
      for (const [shape, corners] of [
        ['shapes: strip', [0, 1, 2, 2, 1, 3]],
        ['shapes: fan', [0, 1, 2, 0, 2, 3]],
        ['shapes: polygons, corners: 4', [0, 1, 2, 0, 2, 3]],
      ] as const) {
        const sheet = withResult(root, `model: { ${parts(shape)} }`);
        const made = await readFields(
          sheet,
          '',
          { bytes: data, path: 'x', resolve: () => Promise.resolve(null) },
          (fields) => sheet.result.model?.(fields),
        );
        expect([...(made?.parts[0]?.indices ?? [])], shape).to.deep.equal(corners);
      }
      const wrong = withResult(root, `model: { ${parts('shapes: triangles')} }`);
      expect((await failureOf(reading(wrong, data).model())).message).to.include(
        '4 corners are no whole number of triangles',
      );
    });

    it('has materials with textures, bones and clips, in metres, Y up', async () => {
      const sheet = withResult(
        root,
        `model:
  ${parts("shapes: strip, joints: joints, weights: 'range(4) * 0 + 1', material: 0")}
  materials: { each: range(1), name: "'canvas'", texture: "'sail.png'", colour: [1, 0.5, 0, 1] }
  bones: { each: range(2), name: "'bone ' + item", parent: item - 1, position: [item, 0, 0] }
  clips: { name: "'sway'", tracks: { bone: 1, rate: 10, rotations: turns } }
  metresPerUnit: 0.01
  up: Z`,
      );
      const { document, missing, units } = await reading(sheet, data).model();
      expect([missing, units]).to.deep.equal([['sail.png'], '0.01 m to a unit, Z up']);
      const [skin] = document.getRoot().listSkins();
      expect(skin?.listJoints().map((joint) => joint.getName())).to.deep.equal(['bone 0', 'bone 1']);
      const [clip] = document.getRoot().listAnimations();
      const [channel] = clip?.listChannels() ?? [];
      expect([clip?.getName(), channel?.getTargetNode()?.getName(), channel?.getTargetPath()]).to.deep.equal([
        'sway',
        'bone 1',
        'rotation',
      ]);
      const times = (channel?.getSampler()?.getInput()?.getArray() ?? []) as ArrayLike<number>;
      expect(Array.from(times, (time) => Math.round(time * 10))).to.deep.equal([0, 1]);
      const { facts } = await readBySheet(sheet, 'sheet-model', data, 'x.bin');
      expect(facts).to.deep.include({
        kind: 'model',
        triangles: 2,
        bones: 2,
        materials: 1,
        missing: ['sail.png'],
      });
      // A unit square lies on the ground now, a centimetre wide: Z up became Y up.
      const size =
        facts.kind === 'model' && facts.boundsMetres
          ? facts.boundsMetres.max.map((most, axis) => most - (facts.boundsMetres?.min[axis] ?? 0))
          : [];
      expect(size.map((side) => Math.round(side * 1000))).to.deep.equal([10, 0, 10]);
    });

    it('is not taken where bones hang on themselves, or corners on vertices that are not there', async () => {
      const looped = withResult(
        root,
        `model: { parts: [], bones: { each: range(2), name: "'b' + item", parent: 1 - item } }`,
      );
      expect((await failureOf(reading(looped, data).model())).message).to.include(
        'bone 0 hangs on itself, through others',
      );
      const far = withResult(
        root,
        `model: { parts: [{ positions: positions, indices: 'slice(indices, 0, 3) + 2' }] }`,
      );
      expect((await failureOf(reading(far, data).model())).message).to.include(
        'a corner is vertex 4, and there are 4',
      );
    });
  });

  it('a sound, with its loops in sample frames', async () => {
    const sheet = withResult(
      'loop: u16[2]\nsamples: bytes',
      "sound: { rate: 8000, channels: 2, samples: samples, loops: { start: 'loop[0]', end: 'loop[1]' } }",
    );
    const { facts } = await readBySheet(
      sheet,
      'sheet-sound',
      Buffer.concat([Buffer.from(Uint16Array.from([10, 90]).buffer), Buffer.alloc(400, 3)]),
      'x.bin',
    );
    expect(facts).to.deep.include({
      kind: 'sound',
      seconds: 100 / 8000,
      channels: 2,
      coding: 'PCM',
      bits: 16,
      loops: [{ startFrame: 10, endFrame: 90 }],
    });
  });

  it('placements, and what a file says of others', async () => {
    const types = 'types:\n  thing: { x: f32, y: f32, z: f32, model: string(8) }';
    const sheet = withResult(
      'things: thing[end]',
      `placements: { each: things, model: "model + '.glb'", position: [x, y, z], up: Z, metresPerUnit: 0.1 }
mentions: [{ each: things, path: model }]`,
      types,
    );
    const data = Buffer.concat([floats(10, 20, 30), Buffer.from('reed\0\0\0\0')]);
    const { facts, mentions } = await readBySheet(sheet, 'sheet-map', data, 'x.bin');
    expect(facts).to.deep.include({ kind: 'map', placements: 1, models: ['reed.glb'] });
    expect(
      facts.kind === 'map' && facts.boundsMetres?.min.map((value) => Math.round(value * 10)),
    ).to.deep.equal([10, 30, -20]);
    expect(mentions.map(({ text }) => text)).to.include('reed');
  });

  it('entries of a container whose names lie in a sister file, packed one by one', async () => {
    const sheet = sheetOf(`sheet: Container
language: 1
files: '*'
types:
  entry: { name: u32, offset: u32, size: u32 }
root:
  count: u32
  entries: entry[count]
result:
  entries:
    each: entries
    name: "textAt(sister('names.bin'), name)"
    offset: offset
    size: size
    unpack: [zlib]
`);
    const packed = deflateSync(Buffer.from('herons'));
    const head = Buffer.from(Uint32Array.from([1, 4, 16, packed.length]).buffer);
    const file = {
      bytes: Buffer.concat([head, packed]),
      path: 'a.bin',
      resolve: (name: string) =>
        Promise.resolve(name === 'names.bin' ? Buffer.from('\0\0\0\0a/heron.txt\0') : null),
    };
    const make = sheet.result.entries;
    if (!make) throw new Error('no entries');
    const [entry] = await readFields(sheet, '', file, make);
    expect([entry?.name, entry?.offset, Buffer.from(entry?.bytes() ?? []).toString()]).to.deep.equal([
      'a/heron.txt',
      16,
      'herons',
    ]);
    const alone = { ...file, resolve: () => Promise.resolve(null) };
    expect((await failureOf(readFields(sheet, '', alone, make))).message).to.equal(
      'the file names.bin is missing',
    );
    const cut = { ...file, bytes: file.bytes.subarray(0, 20) };
    expect((await failureOf(readFields(sheet, '', cut, make))).message).to.match(
      /^“a\/heron.txt” should lie at byte 16, \d+ bytes long, and the file has 20$/,
    );
  });

  it('nothing but fields, where nobody says more', async () => {
    const sheet = sheetOf("sheet: Fields\nlanguage: 1\nfiles: '*'\nroot: { a: u8 }\n");
    expect(sheet.result.kind).to.equal(null);
    expect(await fieldsOf(sheet, bytes(5))).to.deep.equal({ a: 5 });
    expect((await failureOf(reading(sheet, bytes(5)).picture())).message).to.equal(
      'the sheet “Fields” makes no picture',
    );
  });
});
