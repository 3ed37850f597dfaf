import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { openPictures } from '../../../../bench/open-pictures.ts';
import { fileOf, writeBytes } from '../../../../tests/support/write.ts';
import type { Pixels } from '../picture.ts';
import { cropped, frameWithoutBorder } from './crop.ts';
import { scaled, scaledSize } from './scale.ts';
import { denoised, withoutBands } from './smooth.ts';

/** A picture of one colour, with another one in a part of it. */
function framed(
  width: number,
  height: number,
  inside: readonly [number, number, number, number],
  border: readonly number[],
): Pixels {
  const data = new Uint8Array(width * height * 4);
  const [left, top, right, bottom] = inside;
  for (let at = 0; at < width * height; at++) {
    const [x, y] = [at % width, Math.floor(at / width)];
    const isInside = x >= left && x < right && y >= top && y < bottom;
    data.set(isInside ? [200, (x * 7) % 256, (y * 5) % 256, 255] : border, at * 4);
  }
  return { width, height, data };
}

describe('Pictures for use', () => {
  it('crops a 4:3 picture out of a canvas of 1024 × 1024 (common practice, no published source)', () => {
    for (const [by, border] of [
      ['alpha', [9, 9, 9, 0]],
      ['colour', [0, 0, 0, 255]],
    ] as const) {
      const pixels = framed(1024, 1024, [0, 128, 1024, 896], border);
      const frame = frameWithoutBorder(pixels, by, 0);
      expect(frame, by).to.deep.equal({ left: 0, top: 128, width: 1024, height: 768 });
      expect(cropped(pixels, frame!).data.subarray(0, 4)).to.deep.equal(
        pixels.data.subarray(128 * 4096, 128 * 4096 + 4),
      );
    }
  });

  it('takes a border that is not quite of one colour within a tolerance, and leaves what has none', () => {
    const pixels = framed(40, 30, [5, 6, 33, 20], [20, 20, 20, 255]);
    for (let at = 0; at < 40 * 4; at += 12) pixels.data[at] = 23;
    pixels.data[0] = 20;
    expect(frameWithoutBorder(pixels, 'colour', 0)?.top).to.equal(0);
    expect(frameWithoutBorder(pixels, 'colour', 4)).to.deep.equal({ left: 5, top: 6, width: 28, height: 14 });
    expect(frameWithoutBorder(framed(9, 9, [0, 0, 9, 9], [0, 0, 0, 0]), 'alpha', 0)).to.equal(null);
    expect(frameWithoutBorder(framed(9, 9, [0, 0, 0, 0], [0, 0, 0, 0]), 'alpha', 0)).to.equal(null);
  });

  it('keeps a rectangle that somebody drew of every picture, as far as it lies within', async () => {
    const pixels = framed(64, 48, [0, 0, 64, 48], [0, 0, 0, 255]);
    const png = await sharp(pixels.data, { raw: { ...pixels, channels: 4 } })
      .png()
      .toBuffer();
    const cut = async (rectangle: string) => {
      const written = await writeBytes(png, 'x.png', { settings: { pictures: { rectangle } } });
      const { width, height } = await sharp(fileOf(written, '.png')).metadata();
      return [width, height, written.notes.join('; ')];
    };
    expect(await cut('10,6,20,12')).to.deep.equal([20, 12, 'cropped from 64 × 48 to 20 × 12']);
    expect(await cut('60,40,20,12')).to.deep.equal([4, 8, 'cropped from 64 × 48 to 4 × 8']);
    const outside = 'not cropped: the rectangle lies outside its 64 × 48 pixels';
    expect(await cut('64,0,20,12')).to.deep.equal([64, 48, outside]);
    const wide = await writeBytes(png, 'x.png', { settings: { pictures: { width: 200 } } });
    expect(wide.notes).to.deep.equal(['scaled from 64 × 48 to 200 × 150']);
  });

  it('takes mild noise off photographs, and leaves edges where they are', async () => {
    const [photograph] = openPictures();
    const { data, info } = await sharp(photograph)
      .resize(192, 192, { fit: 'fill' })
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const clean = { width: info.width, height: info.height, data: new Uint8Array(data) };
    let seed = 1;
    const noise = (): number => {
      // The sum of a few even ones is about a normal one, of 4 steps here.
      let sum = 0;
      for (let at = 0; at < 6; at++) {
        seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0;
        sum += seed / 2 ** 32 - 0.5;
      }
      return sum * 5.6;
    };
    const noisy = {
      ...clean,
      data: clean.data.map((value, at) =>
        at % 4 === 3 ? value : Math.max(0, Math.min(255, Math.round(value + noise()))),
      ),
    };
    const errorOf = (pixels: Pixels): number =>
      clean.data.reduce((sum, value, at) => sum + (value - (pixels.data[at] ?? 0)) ** 2, 0);
    expect(errorOf(denoised(noisy)) / errorOf(noisy)).to.be.below(0.75);
    const edge = framed(32, 32, [16, 0, 32, 32], [10, 10, 10, 255]);
    for (let at = 0; at < edge.data.length; at += 4)
      if (edge.data[at] === 200) edge.data.set([200, 200, 200], at);
    expect(denoised(edge).data).to.deep.equal(edge.data);
  });

  it('smooths bands towards the gradient that was meant, and nothing else', () => {
    const [width, height] = [512, 64];
    // Forty steps over the whole width: bands of some thirteen pixels.
    const meant = (x: number): number => 60 + (x / width) * 40;
    const data = new Uint8Array(width * height * 4);
    for (let at = 0; at < width * height; at++) {
      const value = Math.round(meant(at % width));
      data.set([value, value, value, 255], at * 4);
    }
    const smoothed = withoutBands({ width, height, data });
    // Seen from a little farther: means of eight by eight.
    const off = (pixels: Pixels): number => {
      let sum = 0;
      for (let top = 16; top < 48; top += 8)
        for (let left = 16; left < width - 24; left += 8) {
          let [mean, wanted] = [0, 0];
          for (let y = top; y < top + 8; y++)
            for (let x = left; x < left + 8; x++) {
              mean += pixels.data[(y * width + x) * 4] ?? 0;
              wanted += meant(x);
            }
          sum += Math.abs(mean - wanted) / 64;
        }
      return sum;
    };
    expect(off(smoothed) / off({ width, height, data })).to.be.below(0.5);
    const checks = framed(32, 32, [0, 0, 32, 32], [0, 0, 0, 255]);
    expect(withoutBands(checks).data).to.deep.equal(checks.data);
  });

  it('makes 3580 pixels of 2046 by a factor of 1.75 (common practice, no published source)', () => {
    expect(scaledSize({ width: 2046, height: 1024 }, 1.75)).to.deep.equal({ width: 3580, height: 1792 });
    expect(scaledSize({ width: 3, height: 1 }, 0.1)).to.deep.equal({ width: 1, height: 1 });
  });

  it('keeps a plain colour, and does not let what is transparent bleed into what is not', () => {
    const plain = framed(20, 20, [0, 0, 0, 0], [120, 60, 200, 255]);
    expect([...scaled(plain, { width: 47, height: 31 }, false).data.subarray(400, 404)]).to.deep.equal([
      120, 60, 200, 255,
    ]);
    const pixels = framed(20, 20, [0, 0, 10, 20], [0, 0, 0, 0]);
    for (let at = 0; at < pixels.data.length; at += 4)
      if (pixels.data[at + 3] === 255) pixels.data.set([250, 10, 10], at);
    const large = scaled(pixels, { width: 60, height: 60 }, false);
    for (let at = 0; at < large.data.length; at += 4)
      if ((large.data[at + 3] ?? 0) > 30) expect(large.data[at]).to.be.closeTo(250, 2);
  });

  it('enlarges photographs no worse than ImageMagick’s Lanczos in linear light (PSNR)', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'worvel-scale-'));
    try {
      let at = 0;
      for (const bytes of openPictures()) {
        if (at++ % 12 !== 5) continue;
        if (at > 60) break;
        const original = await sharp(bytes).resize(256, 256, { fit: 'fill' }).removeAlpha().raw().toBuffer();
        const small = await sharp(original, { raw: { width: 256, height: 256, channels: 3 } })
          .resize(128, 128, { kernel: 'lanczos3' })
          .ensureAlpha()
          .png()
          .toBuffer();
        const file = join(folder, 'small.png');
        writeFileSync(file, small);
        const theirs = execFileSync('convert', [
          ...[file, '-colorspace', 'RGB', '-filter', 'Lanczos', '-resize', '256x256!', '-colorspace', 'sRGB'],
          ...['-depth', '8', 'rgb:-'],
        ]);
        const written = await writeBytes(small, 'x.png', { settings: { pictures: { as: 'tga', scale: 2 } } });
        expect(written.proof.verdict).to.equal('the same');
        expect(written.notes).to.deep.equal(['scaled from 128 × 128 to 256 × 256']);
        const tga = fileOf(written, '.tga');
        const channels = (tga[16] ?? 0) / 8;
        const ours = new Uint8Array(256 * 256 * 3);
        for (let pixel = 0; pixel < 256 * 256; pixel++)
          for (let channel = 0; channel < 3; channel++)
            ours[pixel * 3 + channel] = tga[18 + pixel * channels + 2 - channel] ?? 0;
        expect(psnr(original, ours)).to.be.above(psnr(original, theirs) - 0.05);
      }
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });

  it('crops and scales in one go, PNG to PNG too, and says so', async () => {
    const { data, width, height } = framed(64, 64, [0, 8, 64, 56], [0, 0, 0, 0]);
    const png = await sharp(data, { raw: { width, height, channels: 4 } })
      .png()
      .toBuffer();
    const written = await writeBytes(png, 'x.png', {
      settings: { pictures: { crop: 'alpha', scale: 1.75 } },
    });
    expect(written.notes).to.deep.equal([
      'cropped from 64 × 64 to 64 × 48',
      'scaled from 64 × 48 to 112 × 84',
    ]);
    expect(await sharp(fileOf(written, '.png')).metadata()).to.include({ width: 112, height: 84 });
  });

  it('refuses sizes without end', () => {
    const one = framed(4, 4, [0, 0, 4, 4], [0, 0, 0, 0]);
    expect(() => scaled(one, { width: 100_000, height: 4 }, false)).to.throw(
      'more than a picture is scaled to',
    );
  });
});

function psnr(first: Uint8Array, second: Uint8Array): number {
  const error = first.reduce((sum, value, at) => sum + (value - (second[at] ?? 0)) ** 2, 0) / first.length;
  return 10 * Math.log10(255 ** 2 / error);
}
