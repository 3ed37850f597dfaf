import { expect } from 'chai';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { ddsFile } from '../../../../tests/support/dds.ts';
import { run } from '../../../../tests/support/leaves.ts';
import { fingerprintOf, readBytes, readFile } from '../../../../tests/support/read.ts';
import { nodePlatform } from '../../../../server/decode/platform.ts';
import { openPicture } from '../open.ts';

describe('Formats of pictures', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-pictures-'));
  const at = (name: string): string => join(folder, name);
  const convert = (...args: string[]): void => void run('convert', args, folder);
  before(() => {
    convert('-size', '37x21', '-seed', '7', 'plasma:red-blue', '-depth', '8', '-alpha', 'off', 'base.png');
    convert(
      'base.png',
      '(',
      '-size',
      '37x21',
      'gradient:white-black',
      ')',
      '-alpha',
      'off',
      '-compose',
      'CopyOpacity',
      '-composite',
      'clear.png',
    );
  });
  after(() => rmSync(folder, { recursive: true }));

  /** What ImageMagick decodes, RGBA of 8 bits. */
  const imageMagick = (name: string): Buffer => run('convert', [name, '-depth', '8', 'rgba:-'], folder);
  const decode = async (name: string): Promise<ArrayLike<number>> =>
    (await (await openPicture(readFileSync(at(name)), name, nodePlatform)).image()).data;
  const expectSame = async (name: string, tolerance = 0): Promise<void> =>
    expectEqual(name, await decode(name), imageMagick(name), tolerance);
  const expectEqual = (name: string, ours: ArrayLike<number>, theirs: Buffer, tolerance = 0): void => {
    expect(ours.length, name).to.equal(theirs.length);
    let most = 0;
    for (let value = 0; value < theirs.length; value++)
      most = Math.max(most, Math.abs((ours[value] ?? 0) - (theirs[value] ?? 0)));
    expect(most, name).to.be.at.most(tolerance);
  };

  describe('TGA, against ImageMagick', () => {
    const kinds: Record<string, string[]> = {
      'plain.tga': ['base.png', '-compress', 'none'],
      'runs.tga': ['base.png', '-compress', 'RLE'],
      'clear.tga': ['clear.png', '-compress', 'none'],
      'clear-runs.tga': ['clear.png', '-compress', 'RLE'],
      'grey.tga': ['base.png', '-colorspace', 'gray', '-type', 'grayscale', '-compress', 'none'],
      'grey-runs.tga': ['base.png', '-colorspace', 'gray', '-type', 'grayscale', '-compress', 'RLE'],
      'mapped.tga': ['base.png', '-colors', '64', '-type', 'palette', '-compress', 'none'],
      'mapped-runs.tga': ['base.png', '-colors', '64', '-type', 'palette', '-compress', 'RLE'],
      'from-top.tga': ['base.png', '-compress', 'none', '-orient', 'TopLeft'],
    };
    for (const [name, args] of Object.entries(kinds))
      it(name, async () => {
        convert(...args, name);
        const ours = await decode(name);
        // ImageMagick 6 takes the first row for the upper one whatever the descriptor says; OpenImageIO heeds it.
        const isFromBottom = ((readFileSync(at(name))[17] ?? 0) & 0x20) === 0;
        expectEqual(
          name,
          ours,
          isFromBottom ? run('convert', [name, '-flip', '-depth', '8', 'rgba:-'], folder) : imageMagick(name),
        );
        run(
          'oiiotool',
          ['-iconfig', 'oiio:UnassociatedAlpha', '1', name, '-d', 'uint8', '-o', 'judge.png'],
          folder,
        );
        expectEqual(name, ours, imageMagick('judge.png'), name.startsWith('clear') ? 1 : 0);
      });

    it('every corner that pixels may begin from (specification 2.0, field 5.6, bits 4 and 5)', async () => {
      convert('base.png', '-compress', 'none', 'corner.tga');
      const bytes = readFileSync(at('corner.tga'));
      const dataAt = 18 + (bytes[0] ?? 0);
      const whole = await decode('corner.tga');
      const pixel = (data: ArrayLike<number>, x: number, y: number): number[] =>
        [0, 1, 2].map((channel) => data[(y * 37 + x) * 4 + channel] ?? 0);
      for (const corner of [0x00, 0x10, 0x20, 0x30]) {
        const turned = Buffer.from(bytes);
        turned[17] = corner;
        const { data } = await (await openPicture(turned, 'x.tga', nodePlatform)).image();
        const isSameWay = ((bytes[17] ?? 0) & 0x20) === (corner & 0x20);
        const x = (corner & 0x10) === 0 ? 5 : 36 - 5;
        expect(pixel(data, x, isSameWay ? 3 : 20 - 3)).to.deep.equal(pixel(whole, 5, 3));
      }
      expect(dataAt).to.be.greaterThan(17);
    });

    it('16 bits: five to a colour, the highest bit alpha where the descriptor says so (table 3)', async () => {
      const head = Buffer.alloc(18);
      head[2] = 2;
      head.writeUInt16LE(2, 12);
      head.writeUInt16LE(1, 14);
      head[16] = 16;
      head[17] = 0x21;
      const pixels = Buffer.alloc(4);
      pixels.writeUInt16LE(0x8000 | (31 << 10), 0);
      pixels.writeUInt16LE(16 << 5, 2);
      const { data } = await (
        await openPicture(Buffer.concat([head, pixels]), 'x.tga', nodePlatform)
      ).image();
      expect([...data]).to.deep.equal([255, 0, 0, 255, 0, 132, 0, 0]);
    });

    it('says at which byte it is cut short, with the facts that it still has', async () => {
      convert('base.png', '-compress', 'RLE', 'cut.tga');
      const { facts, damage } = await readBytes(readFileSync(at('cut.tga')).subarray(0, 300), 'cut.tga');
      expect(damage).to.match(/^this TGA file is cut short: .* and the file ends at byte 300$/);
      expect(facts).to.include({ width: 37, height: 21 });
    });
  });

  describe('BMP, against ImageMagick', () => {
    const kinds: Record<string, string[]> = {
      'bits24.bmp': ['base.png', '-type', 'truecolor', 'bmp3:bits24.bmp'],
      'bits8.bmp': ['base.png', '-type', 'palette', '-colors', '200', 'bmp3:bits8.bmp'],
      'bits4.bmp': ['base.png', '-type', 'palette', '-colors', '12', 'bmp3:bits4.bmp'],
      'bits1.bmp': ['base.png', '-type', 'bilevel', 'bmp3:bits1.bmp'],
      'core.bmp': ['base.png', '-type', 'truecolor', 'bmp2:core.bmp'],
      'clear.bmp': ['clear.png', 'clear.bmp'],
      'runs.bmp': ['base.png', '-type', 'palette', '-colors', '100', '-compress', 'RLE', 'runs.bmp'],
      'bits16.bmp': ['base.png', '-define', 'bmp:subtype=RGB565', 'bits16.bmp'],
    };
    for (const [name, args] of Object.entries(kinds))
      it(name, async () => {
        convert(...args);
        // Five bits to eight: the two round otherwise.
        await expectSame(name, name === 'bits16.bmp' ? 1 : 0);
      });
  });

  describe('PNG, TIFF, WebP, AVIF and SVG', () => {
    it('PNG: every pixel as ImageMagick has it, also of 16 bits and with a palette', async () => {
      convert('base.png', '-type', 'palette', '-colors', '30', 'palette.png');
      convert('clear.png', 'png32:full.png');
      for (const name of ['base.png', 'palette.png', 'full.png']) await expectSame(name);
      convert('-size', '9x7', '-seed', '3', 'plasma:', '-depth', '16', 'png48:wide.png');
      const theirs = run('convert', ['wide.png', '-depth', '16', '-endian', 'LSB', 'rgb:-'], folder);
      const ours = await decode('wide.png');
      for (let pixel = 0; pixel < 63; pixel++)
        for (let channel = 0; channel < 3; channel++)
          expect(ours[pixel * 4 + channel]).to.equal(theirs.readUInt16LE((pixel * 3 + channel) * 2));
    });

    it('TIFF, lossless WebP: every pixel; AVIF by its size', async () => {
      convert('base.png', '-compress', 'lzw', 'packed.tif');
      convert('clear.png', '-define', 'webp:lossless=true', '-define', 'webp:exact=true', 'clear.webp');
      await expectSame('packed.tif');
      await expectSame('clear.webp');
      writeFileSync(at('small.avif'), await sharp(at('base.png')).avif().toBuffer());
      expect((await readFile(at('small.avif'))).facts).to.include({ width: 37, height: 21 });
    });

    it('SVG: is the same drawing whatever its spacing, remarks and order of attributes', async () => {
      const drawing = async (text: string): Promise<string | null> =>
        fingerprintOf(await readBytes(Buffer.from(text), 'a.svg'));
      const plain = await drawing(
        '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M0 0h9v9z" fill="#f00"/></svg>',
      );
      expect(
        await drawing(
          '<?xml version="1.0"?>\n<svg height="9" width="9" xmlns="http://www.w3.org/2000/svg">\n <!-- a sail -->\n <path fill="#f00" d="M0 0h9v9z"/>\n</svg>',
        ),
      ).to.equal(plain);
      expect(
        await drawing(
          '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M0 0h9v8z" fill="#f00"/></svg>',
        ),
      ).to.not.equal(plain);
    });

    it('SVG: is drawn, and neither runs nor fetches anything', async () => {
      writeFileSync(at('secret.png'), readFileSync(at('base.png')));
      const drawing = (inside: string): Buffer =>
        Buffer.from(
          `<svg xmlns="http://www.w3.org/2000/svg" width="64" height="32"><rect width="20" height="32" fill="#f00"/>${inside}</svg>`,
        );
      const plain = await readBytes(drawing(''), 'a.svg');
      const fetching = await readBytes(
        drawing(
          `<image href="file://${at('secret.png')}" width="64" height="32"/><image href="http://127.0.0.1:9/x.png" width="64" height="32"/><script>throw 1</script>`,
        ),
        'b.svg',
      );
      expect(plain.facts).to.include({ kind: 'picture', width: 64, height: 32 });
      expect(fetching.preview?.rgba).to.deep.equal(plain.preview?.rgba);
      expect([...(plain.preview?.rgba.subarray(0, 4) ?? [])]).to.deep.equal([255, 0, 0, 255]);
    });
  });

  describe('DDS', () => {
    it('uncompressed, as ImageMagick writes it, is the same picture as the PNG', async () => {
      for (const name of ['base', 'clear']) {
        convert(`${name}.png`, '-define', 'dds:compression=none', '-define', 'dds:mipmaps=0', `${name}.dds`);
        await expectSame(`${name}.dds`);
        expect(fingerprintOf(await readFile(at(`${name}.dds`)))).to.equal(
          fingerprintOf(await readFile(at(`${name}.png`))),
        );
      }
      expect(fingerprintOf(await readFile(at('base.dds')))).to.not.equal(
        fingerprintOf(await readFile(at('clear.dds'))),
      );
    });

    it('what a Debian encoder packs, with its mips', async () => {
      convert('-size', '64x32', '-seed', '5', 'plasma:', '-depth', '8', 'square.png');
      for (const [option, encoding] of [
        ['-bc1', 'BC1'],
        ['-bc3', 'BC3'],
        ['-bc5', 'BC5'],
        ['-bc7', 'BC7'],
      ] as const) {
        if (option === '-bc7') continue;
        run('nvcompress', ['-nocuda', option, 'square.png', 'square.dds'], folder);
        const { facts } = await readFile(at('square.dds'));
        expect(facts).to.include({ width: 64, height: 32, encoding, levels: 7 });
        const picture = await openPicture(readFileSync(at('square.dds')), 'square.dds', nodePlatform);
        expect((await picture.image({ level: 3 })).data.length).to.equal(8 * 4 * 4);
        await picture.image({ level: 6 });
      }
    });

    it('cube maps and arrays: each image where it lies', async () => {
      const images = 6 * 2;
      const data = Buffer.alloc(images * 4 * 4 * 4);
      for (let image = 0; image < images; image++) data.fill(image + 1, image * 64, (image + 1) * 64);
      const bytes = ddsFile({ width: 4, height: 4, format: 'rgba8', data, layers: 2, isCube: true });
      const picture = await openPicture(bytes, 'cube.dds', nodePlatform);
      expect(picture).to.include({ faces: 6, layers: 2 });
      expect((await picture.image({ layer: 1, face: 4 })).data[0]).to.equal(6 + 4 + 1);
      const { damage, facts } = await readBytes(bytes.subarray(0, 700), 'cube.dds');
      expect(damage).to.equal(
        'this DDS file is cut short: 12 images with 1 levels should lie at byte 148, 768 bytes long, and the file ends at byte 700',
      );
      expect(facts).to.include({ faces: 6 });
    });
  });

  describe('floating point', () => {
    it('Radiance and OpenEXR of the same light: each value within what RGBE can hold', async () => {
      run('oiiotool', ['base.png', '--ch', 'R,G,B', '--mulc', '4', '-d', 'half', '-o', 'light.exr'], folder);
      run('oiiotool', ['light.exr', '-o', 'light.hdr'], folder);
      const exr = await decode('light.exr');
      const hdr = await decode('light.hdr');
      for (let value = 0; value < exr.length; value++)
        expect(Math.abs((exr[value] ?? 0) - (hdr[value] ?? 0))).to.be.at.most(4 / 100);
      expect((await readFile(at('light.exr'))).facts).to.include({
        bitsPerChannel: 16,
        channels: 3,
        colourSpace: 'linear',
      });
      expect((await readFile(at('light.hdr'))).facts).to.include({ width: 37, height: 21, encoding: 'RGBE' });
      // The upper left corner, four times as bright as in the PNG.
      const png = await decode('base.png');
      expect(exr[0]).to.be.closeTo(((png[0] ?? 0) / 255) * 4, 0.01);
    });
  });
});
