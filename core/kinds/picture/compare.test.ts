import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pixelmatch from 'pixelmatch';
import sharp from 'sharp';
import ssim from 'ssim.js';
import type { Comparison } from '../../../contract/comparisons.ts';
import { compareBytes } from '../../../tests/support/compare.ts';
import { fingerprintOf, readBytes } from '../../../tests/support/read.ts';
import type { Raster } from '../reading.ts';
import { comparePair } from './compare.ts';
import { brightnessOf, structuralSimilarity } from './compare/structural-similarity.ts';

const width = 256;
const height = 192;

/** Reeds, water and a few lamps: gradients, fine structure and edges. */
function scene(): Raster {
  const rgba = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const wave = Math.sin(x / 9 + Math.sin(y / 17) * 2) * 24;
      const reed = (x * 7 + ((y / 13) | 0) * 5) % 23 < 3 ? -40 : 0;
      const lamp = Math.hypot(x - 60, y - 50) < 18 ? 90 : 0;
      rgba.set([70 + wave + lamp, 110 + wave / 2 + reed + lamp, 90 + y / 3 + reed, 255], (y * width + x) * 4);
    }
  return { width, height, rgba };
}

const copy = ({ rgba, ...size }: Raster): Raster => ({ ...size, rgba: new Uint8Array(rgba) });
const paint = (raster: Raster, x: number, y: number, side: number, colour: number[]): Raster => {
  const result = copy(raster);
  for (let row = y; row < y + side; row++)
    for (let column = x; column < x + side; column++)
      result.rgba.set(colour, (row * raster.width + column) * 4);
  return result;
};
const image = ({ rgba, ...size }: Raster) => sharp(rgba, { raw: { ...size, channels: 4 } });
const decoded = async (bytes: Uint8Array): Promise<Raster> => {
  const { data, info } = await sharp(bytes).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, rgba: new Uint8Array(data) };
};
const detailOf = (comparison: Comparison) => {
  if (comparison.detail?.kind !== 'picture') throw new Error('no detail of a picture');
  return comparison.detail;
};

describe('comparing pictures', () => {
  const base = scene();
  const folder = mkdtempSync(join(tmpdir(), 'worvel-compare-'));
  after(() => rmSync(folder, { recursive: true, force: true }));
  const save = async (name: string, raster: Raster): Promise<string> => {
    const path = join(folder, name);
    writeFileSync(path, await image(raster).png().toBuffer());
    return path;
  };

  it('counts the pixels that differ as ImageMagick (AE) does, and those seen to differ nearly as pixelmatch', async () => {
    const changed = paint(base, 100, 80, 20, [200, 40, 40, 255]);
    const { status, stderr } = spawnSync(
      'compare',
      ['-metric', 'AE', await save('a.png', base), await save('b.png', changed), 'null:'],
      { encoding: 'utf8' },
    );
    expect(status).to.equal(1);
    const detail = detailOf(comparePair(base, changed).comparison);
    expect(detail.differingShare * width * height).to.be.closeTo(Number(stderr), 1e-6);
    const seen = pixelmatch(base.rgba, changed.rgba, undefined, width, height, {
      threshold: 0.05,
      includeAA: true,
    });
    expect(detail.visibleShare * width * height).to.be.closeTo(seen, seen * 0.02);
    expect(detail.boxes).to.deep.equal([{ x: 100, y: 80, width: 20, height: 20 }]);
    expect(detail.channels.map(({ name, share }) => [name, share > 0])).to.deep.equal([
      ['red', true],
      ['green', true],
      ['blue', true],
      ['alpha', false],
    ]);
  });

  it('measures structural similarity as ffmpeg does, and nearly as ssim.js does in windows of its own', async () => {
    for (const [name, other] of [
      ['blurred', await decoded(await image(base).blur(1.2).png().toBuffer())],
      ['jpeg', await decoded(await image(base).jpeg({ quality: 40 }).toBuffer())],
      ['painted', paint(base, 30, 30, 60, [10, 10, 10, 255])],
    ] as const) {
      const [before, after] = [brightnessOf(base), brightnessOf(other)];
      const ours = structuralSimilarity(before, after, width, height);
      // The same windows on the same brightness: the same to the last printed digit but one.
      const raw = (bytes: Uint8Array, file: string): string => {
        writeFileSync(join(folder, file), bytes);
        return join(folder, file);
      };
      const input = (path: string): string[] => [
        '-f',
        'rawvideo',
        '-pix_fmt',
        'gray',
        '-s',
        `${width}x${height}`,
        '-i',
        path,
      ];
      const { stderr } = spawnSync(
        'ffmpeg',
        [
          ...input(raw(before, 'old.gray')),
          ...input(raw(after, 'new.gray')),
          '-lavfi',
          'ssim',
          '-f',
          'null',
          '-',
        ],
        { encoding: 'utf8' },
      );
      expect(ours, name).to.be.closeTo(Number(/SSIM Y:([\d.]+)/.exec(stderr)?.[1]), 0.0002);
      const grey = (values: Uint8Array) => ({
        width,
        height,
        data: Uint8ClampedArray.from(values, (value) => value).reduce(
          (all, value, at) => {
            all.fill(value, at * 4, at * 4 + 3);
            all[at * 4 + 3] = 255;
            return all;
          },
          new Uint8ClampedArray(width * height * 4),
        ),
      });
      const { mssim } = ssim(grey(before), grey(after), { ssim: 'bezkrovny', downsample: false });
      expect(ours, name).to.be.closeTo(mssim, 0.05);
    }
  });

  it('tells loss of packing from a change, however small, whatever packs it', async () => {
    for (const quality of [60, 75, 90]) {
      const packed = await decoded(
        await image(base).jpeg({ quality, chromaSubsampling: '4:4:4' }).toBuffer(),
      );
      const loss = comparePair(base, packed).comparison;
      // Where a hundredth of it is seen to differ it is told, and not folded away.
      expect(loss.nature, `JPEG ${quality}`).to.equal(
        loss.sentence.includes('visible loss') ? 'other' : 'recompressed',
      );
      if (quality >= 90) expect(loss.nature, `JPEG ${quality}`).to.equal('recompressed');
      expect(loss.sentence).to.match(/^The same picture, packed /);
      const webp = await decoded(await image(base).webp({ quality }).toBuffer());
      // A small thing painted into what was packed is found beneath the loss.
      const changed = paint(packed, 150, 60, 10, [210, 60, 50, 255]);
      const { comparison } = comparePair(base, changed);
      expect(comparison.nature, `JPEG ${quality} with a change`).to.equal('other');
      // Colour at half the size leaves more beside sharp edges: in doubt that is a change.
      if (quality >= 90)
        expect(comparePair(base, webp).comparison.sentence, `WebP ${quality}`).to.match(
          /^The same picture, packed /,
        );
    }
    const faded = copy(base);
    for (let at = 0; at < faded.rgba.length; at += 4)
      if ((at / 4) % width > 128) faded.rgba[at] = Math.max(0, (faded.rgba[at] ?? 0) - 3);
    expect(comparePair(base, faded).comparison.nature, 'a faint shade over one half').to.not.equal(
      'recompressed',
    );
  });

  it('tells the same picture scaled, mirrored, turned, with borders and in other colours', async () => {
    const relations: [string, Promise<Uint8Array>, string, RegExp][] = [
      ['scaled', image(base).resize(128, 96).png().toBuffer(), 'rescaled', /half as large/],
      ['larger', image(base).resize(448, 336).png().toBuffer(), 'rescaled', /1.75 times as large/],
      ['mirrored', image(base).flop().png().toBuffer(), 'mirrored', /left to right/],
      ['turned', image(base).rotate(180).png().toBuffer(), 'mirrored', /turned by 180°/],
      [
        'bordered',
        image(base)
          .extend({ top: 32, bottom: 32, background: { r: 0, g: 0, b: 0, alpha: 0 } })
          .png()
          .toBuffer(),
        'bordered',
        /0 left, 32 above, 0 right, 32 below/,
      ],
      ['brighter', image(base).linear(1.3, 4).png().toBuffer(), 'recoloured', /brighter/],
      [
        'redder',
        image(base)
          .recomb([
            [0.4, 0.6, 0.4],
            [0.2, 0.5, 0.1],
            [0.1, 0.2, 0.4],
          ])
          .png()
          .toBuffer(),
        'recoloured',
        /other colours/,
      ],
    ];
    for (const [name, bytes, nature, words] of relations) {
      const { comparison } = comparePair(base, await decoded(await bytes));
      expect(comparison.nature, name).to.equal(nature);
      expect(comparison.sentence, name).to.match(words);
    }
    const other = await decoded(
      await image(base).rotate(90).resize(width, height, { fit: 'fill' }).blur(9).png().toBuffer(),
    );
    expect(comparePair(base, other).comparison.nature).to.equal('other');
    const softer = comparePair(base, await decoded(await image(base).blur(2).png().toBuffer())).comparison;
    expect(softer.figures.find(({ name }) => name.startsWith('sharpness'))).to.not.equal(undefined);
  });

  it('gives normals by their angle, a packed channel by itself, and what is hidden by alpha as that', () => {
    const flat: Raster = { width: 64, height: 64, rgba: new Uint8Array(64 * 64 * 4) };
    for (let at = 0; at < flat.rgba.length; at += 4) flat.rgba.set([128, 128, 255, 255], at);
    const tilted = copy(flat);
    // 30 degrees about one axis, everywhere.
    for (let at = 0; at < flat.rgba.length; at += 4)
      tilted.rgba.set(
        [
          Math.round(127.5 + 127.5 * Math.sin(Math.PI / 6)),
          128,
          Math.round(127.5 + 127.5 * Math.cos(Math.PI / 6)),
          255,
        ],
        at,
      );
    expect(detailOf(comparePair(flat, tilted).comparison).normalDegrees?.mean).to.be.closeTo(30, 0.5);
    const roughness = copy(base);
    for (let at = 1; at < roughness.rgba.length; at += 4)
      roughness.rgba[at] = ((roughness.rgba[at] ?? 0) * 3 + (at % 977)) % 256;
    expect(comparePair(base, roughness).comparison.sentence).to.include('in green alone');
    const hidden = copy(base);
    const hiddenOld = copy(base);
    for (let at = 0; at < 4000; at += 4) {
      hidden.rgba.set([9, 9, 9, 0], at);
      hiddenOld.rgba.set([80, 9, 9, 0], at);
    }
    expect(comparePair(hiddenOld, hidden).comparison.sentence).to.equal(
      'Only colours that are fully transparent differ.',
    );
  });

  it('looks at every frame of a picture that moves, and at more than 8 bits', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'worvel-frames-'));
    try {
      const moving = (third: string, name: string): { bytes: Uint8Array; path: string } => {
        const { status } = spawnSync('convert', [
          '-size',
          '40x30',
          'xc:red',
          'xc:green',
          `xc:${third}`,
          join(folder, name),
        ]);
        expect(status).to.equal(0);
        return { bytes: readFileSync(join(folder, name)), path: name };
      };
      const [blue, white] = [moving('blue', 'blue.gif'), moving('white', 'white.gif')];
      const { nature, sentence } = await compareBytes(blue, white);
      expect(nature).to.equal('other');
      expect(sentence).to.match(/^All pixels differ.*, on frame 3\.$/);
      const fingerprints = await Promise.all(
        [blue, white].map(async ({ bytes, path }) => fingerprintOf(await readBytes(bytes, path))),
      );
      expect(fingerprints[0]).to.not.equal(fingerprints[1]);
      const still = spawnSync('convert', ['-size', '40x30', 'xc:red', 'xc:green', join(folder, 'short.gif')]);
      expect(still.status).to.equal(0);
      expect(
        (await compareBytes(blue, { bytes: readFileSync(join(folder, 'short.gif')), path: 'short.gif' }))
          .sentence,
      ).to.equal('Frames 3 → 2.');
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
    const heights = (last: number): Promise<Buffer> => {
      const values = Uint16Array.from({ length: 64 * 64 * 3 }, (_, at) => (at === 3000 ? last : 30_000));
      return sharp(values, { raw: { width: 64, height: 64, channels: 3 } })
        .toColourspace('rgb16')
        .png()
        .toBuffer();
    };
    const finer = await compareBytes(
      { bytes: await heights(30_000), path: 'a.png' },
      { bytes: await heights(30_012), path: 'a.png' },
    );
    expect([finer.nature, finer.sentence]).to.deep.equal([
      'other',
      'The same in 8 bits, finer values differ.',
    ]);
  });

  it('compares files of different formats, and says which one cannot be read', async () => {
    const png = { bytes: new Uint8Array(await image(base).png().toBuffer()), path: 'a.png' };
    const tiff = {
      bytes: new Uint8Array(await image(base).tiff({ compression: 'lzw' }).toBuffer()),
      path: 'a.tif',
    };
    const same = await compareBytes(png, tiff);
    expect(same.nature).to.equal('same');
    expect(same.sentence).to.match(/^The same to look at, packed as png → /);
    const broken = { bytes: png.bytes.subarray(0, 400), path: 'ui/broken.png' };
    const failure = await compareBytes(png, broken).catch((error: unknown) => String(error));
    expect(failure).to.match(/ReadError/);
  });
});
