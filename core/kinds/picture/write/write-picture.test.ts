import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { fileOf, writeBytes } from '../../../../tests/support/write.ts';
import { ddsFile } from '../../../../tests/support/dds.ts';
import { nodePlatform } from '../../../../server/decode/platform.ts';
import { proofOfPixels } from './likeness.ts';
import { sayColourSpace } from './png-chunks.ts';

/** A picture whose every pixel differs, with alpha from none to whole. */
function pixels(width: number, height: number): Uint8Array {
  const rgba = new Uint8Array(width * height * 4);
  for (let at = 0; at < width * height; at++)
    rgba.set([at % 256, (at * 7) % 256, (at >> 3) % 256, (at * 3) % 256], at * 4);
  return rgba;
}

describe('Writing pictures', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-write-'));
  after(() => rmSync(folder, { recursive: true, force: true }));
  const [width, height] = [61, 43];
  const rgba = pixels(width, height);
  let source: Buffer;
  before(async () => {
    source = await sharp(rgba, { raw: { width, height, channels: 4 } })
      .png()
      .toBuffer();
  });

  /** What ImageMagick reads out of a file, as RGBA of 8 bits. */
  const byImageMagick = (bytes: Uint8Array, ending: string): Uint8Array => {
    const file = join(folder, `x${ending}`);
    writeFileSync(file, bytes);
    return execFileSync('convert', [file, '-depth', '8', 'rgba:-'], { maxBuffer: 64 * 1024 ** 2 });
  };

  for (const [as, ending] of [
    ['tga', '.tga'],
    ['webp', '.webp'],
  ] as const)
    it(`writes ${as.toUpperCase()} whose pixels ImageMagick reads to the bit, what is transparent too`, async () => {
      const written = await writeBytes(source, 'x.png', { settings: { pictures: { as } } });
      expect(written.proof).to.deep.equal({ verdict: 'the same', sentence: '' });
      expect(Buffer.from(byImageMagick(fileOf(written, ending), ending)).equals(Buffer.from(rgba))).to.equal(
        true,
      );
    });

  it('writes PNG of a Targa, in 8 and in 16 bits, whose pixels ImageMagick and OpenImageIO read to the bit', async () => {
    const tga = fileOf(await writeBytes(source, 'x.png', { settings: { pictures: { as: 'tga' } } }), '.tga');
    const written = await writeBytes(tga, 'x.tga', { settings: {} });
    expect(written.proof.verdict).to.equal('the same');
    expect(Buffer.from(byImageMagick(fileOf(written, '.png'), '.png')).equals(Buffer.from(rgba))).to.equal(
      true,
    );
    const wide = new Uint16Array(width * height * 4).map((_, at) =>
      at % 4 === 3 ? 65_535 : (at * 257) % 65_536,
    );
    const tiff = await sharp(wide, { raw: { width, height, channels: 4 } })
      .toColourspace('rgb16')
      .tiff()
      .toBuffer();
    const deep = await writeBytes(tiff, 'x.tiff', { settings: {} });
    expect(deep.proof.verdict).to.equal('the same');
    const file = join(folder, 'deep.png');
    writeFileSync(file, fileOf(deep, '.png'));
    const first = join(folder, 'deep.tiff');
    writeFileSync(first, tiff);
    const said = execFileSync('oiiotool', [file, first, '--diff'], { encoding: 'utf8' });
    expect(said).to.contain('PASS');
  });

  it('says what JPEG loses, and by how much', async () => {
    const photo = await sharp(pixels(64, 64), { raw: { width: 64, height: 64, channels: 4 } })
      .blur(4)
      .png()
      .toBuffer();
    const written = await writeBytes(photo, 'x.png', { settings: { pictures: { as: 'jpeg', quality: 60 } } });
    expect(written.losses).to.deep.equal(['the exact pixels', 'alpha']);
    expect(written.proof.verdict).to.equal('differs');
    expect(written.proof.sentence).to.match(
      /^\d+\.\d+ % of its pixels differ, by [\d.]+ in the mean and [\d.]+ at most, of 255\.$/,
    );
  });

  it('writes OpenEXR that OpenImageIO reads as the light that sRGB stands for (IEC 61966-2-1), rows from the top', async () => {
    const written = await writeBytes(source, 'x.png', { settings: { pictures: { as: 'exr' } } });
    expect(written.proof.verdict).to.equal('the same');
    const file = join(folder, 'x.exr');
    writeFileSync(file, fileOf(written, '.exr'));
    const said = execFileSync('oiiotool', ['--dumpdata', file], {
      encoding: 'utf8',
      maxBuffer: 64 * 1024 ** 2,
    });
    const light = (x: number, y: number): number =>
      Number(new RegExp(`Pixel \\(${x}, ${y}\\): (\\S+)`).exec(said)?.[1]);
    for (const [x, y] of [
      [0, 0],
      [5, 0],
      [60, 42],
      [17, 30],
    ] as const) {
      const code = (rgba[(y * width + x) * 4] ?? 0) / 255;
      const wanted = code <= 0.04045 ? code / 12.92 : ((code + 0.055) / 1.055) ** 2.4;
      expect(light(x, y)).to.be.closeTo(wanted, 1e-6);
    }
  });

  it('leaves mip levels out of a block-compressed texture, or makes a file of each', async () => {
    const data = Buffer.alloc((16 * 8 + 8 * 4 + 4 * 2) * 4, 120);
    const dds = ddsFile({ width: 16, height: 8, levels: 3, format: 'rgba8', data });
    const finest = await writeBytes(dds, 'x.dds', { settings: {} });
    expect(finest.files.map(({ ending }) => ending)).to.deep.equal(['.png']);
    const all = await writeBytes(dds, 'x.dds', { settings: { pictures: { levels: 'all' } } });
    expect(all.files.map(({ ending }) => ending)).to.deep.equal(['.png', '.level-1.png', '.level-2.png']);
    expect((await sharp(fileOf(all, '.level-1.png')).metadata()).width).to.equal(8);
  });

  it('turns the green of a normal map round, and no other picture’s', async () => {
    const options = { settings: { pictures: { as: 'tga', green: 'turned' } } } as const;
    const turned = await writeBytes(source, 'x.png', { ...options, isNormal: true });
    const other = await writeBytes(source, 'x.png', options);
    const at = 18 + 40 * 4;
    expect(fileOf(turned, '.tga')[at + 1]).to.equal(255 - (fileOf(other, '.tga')[at + 1] ?? 0));
    expect(fileOf(turned, '.tga')[at]).to.equal(fileOf(other, '.tga')[at]);
  });

  it('says in a PNG whether its numbers are colours or data (PNG, 11.3.2), and libpng takes it', async () => {
    const tga = fileOf(await writeBytes(source, 'x.png', { settings: { pictures: { as: 'tga' } } }), '.tga');
    const gamma = (bytes: Uint8Array): string => {
      const file = join(folder, 'gamma.png');
      writeFileSync(file, bytes);
      return execFileSync('identify', ['-format', '%[gamma]', file], { encoding: 'utf8' });
    };
    const data = await writeBytes(tga, 'x.tga', { settings: {}, space: 'linear' });
    expect(Number(gamma(fileOf(data, '.png')))).to.be.closeTo(1, 1e-3);
    const colours = await writeBytes(tga, 'x.tga', { settings: {}, space: 'sRGB' });
    expect(Number(gamma(fileOf(colours, '.png')))).to.be.closeTo(0.45455, 1e-4);
    // What it said before is not said twice.
    const twice = Buffer.from(sayColourSpace(fileOf(colours, '.png'), 'linear')).toString('latin1');
    expect(twice.split('gAMA')).to.have.length(2);
    expect(twice).not.to.contain('sRGB');
  });

  it('tells a single pixel that is one step off', () => {
    const one = { width: 8, height: 8, data: pixels(8, 8) };
    const all = { isData: false, hasAlpha: true };
    const other = { ...one, data: one.data.slice() };
    other.data[40] = (other.data[40] ?? 0) ^ 1;
    expect(proofOfPixels(one, one, all, nodePlatform).verdict).to.equal('the same');
    expect(proofOfPixels(one, other, all, nodePlatform).sentence).to.equal(
      '1.56 % of its pixels differ, by 1.0 in the mean and 1.0 at most, of 255.',
    );
    expect(proofOfPixels(one, { ...one, width: 4, height: 16 }, all, nodePlatform).sentence).to.equal(
      'It is 4 × 16 pixels instead of 8 × 8.',
    );
  });

  it('says why a damaged picture and one too large for its format cannot be written', async () => {
    const failure = async (work: Promise<unknown>): Promise<string> =>
      work.then(
        () => 'nothing',
        (error: Error) => error.message,
      );
    expect(
      await failure(writeBytes(source.subarray(0, 200), 'x.png', { settings: { pictures: { as: 'tga' } } })),
    ).to.match(/^the picture cannot be decoded: /);
    const { writeTga } = await import('./tga.ts');
    expect(() => writeTga({ width: 70_000, height: 1, data: new Uint8Array(4) }, true)).to.throw(
      'a Targa has at most 65535 pixels a side, and this one has 70000 × 1',
    );
  });
});
