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
