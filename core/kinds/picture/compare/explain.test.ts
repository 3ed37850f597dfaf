import { expect } from 'chai';
import sharp, { type Sharp } from 'sharp';
import { seeded } from '../../../../demo/seeded.ts';
import type { Raster } from '../../reading.ts';
import { comparePair } from '../compare.ts';

const [width, height] = [192, 144];

/** Rough ground with soft blots of colour: unlike itself wherever it is moved or mirrored. */
async function ground(seed: number): Promise<Raster> {
  const random = seeded(seed);
  const coarse = Buffer.from(Array.from({ length: 12 * 9 * 3 }, () => Math.floor(random() * 200) + 20));
  const { data } = await sharp(coarse, { raw: { width: 12, height: 9, channels: 3 } })
    .resize(width, height, { kernel: 'cubic', fit: 'fill' })
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const rgba = new Uint8Array(data);
  for (let at = 0; at < rgba.length; at += 4) {
    const step = Math.round((random() - 0.5) * 30);
    for (let channel = 0; channel < 3; channel++)
      rgba[at + channel] = Math.max(0, Math.min(255, (rgba[at + channel] ?? 0) + step));
  }
  return { width, height, rgba };
}

async function made({ rgba, ...size }: Raster, change: (picture: Sharp) => Sharp): Promise<Raster> {
  const picture = sharp(rgba, { raw: { ...size, channels: 4 } });
  // Changes are made one after the other: the library has an order of its own for them.
  const { data, info } = await change(picture).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, rgba: new Uint8Array(data) };
}

function copied(picture: Raster, change: (rgba: Uint8Array) => void): Raster {
  const rgba = new Uint8Array(picture.rgba);
  change(rgba);
  return { ...picture, rgba };
}

const place = (x: number, y: number): number => (y * width + x) * 4;

/** Each pixel takes the place of another one. */
function moved(picture: Raster, from: (x: number, y: number) => [number, number]): Raster {
  return copied(picture, (rgba) => {
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [oldX, oldY] = from(x, y);
        const inside = oldX >= 0 && oldY >= 0 && oldX < width && oldY < height;
        rgba.set(
          inside ? picture.rgba.subarray(place(oldX, oldY), place(oldX, oldY) + 4) : [9, 9, 9, 255],
          place(x, y),
        );
      }
  });
}

/** What was done to a picture, each by its own evidence. */
describe('what is said of pictures', () => {
  let base: Raster;
  before(async () => (base = await ground(3)));
  const said = (now: Raster, isPacked = false): { nature: string; sentence: string } =>
    comparePair(base, now, isPacked).comparison;
  const paint = (rgba: Uint8Array, x: number, y: number, w: number, h: number): void => {
    for (let row = y; row < y + h; row++)
      for (let column = x; column < x + w; column++) {
        const at = place(column, row);
        for (let channel = 0; channel < 3; channel++)
          rgba[at + channel] = ((rgba[at + channel] ?? 0) + 100) % 256;
      }
  };

  it('one pixel, and a box to the pixel, wherever it is', () => {
    expect(said(copied(base, (rgba) => paint(rgba, 123, 45, 1, 1))).sentence).to.equal(
      'One pixel differs, at 123, 45.',
    );
    const random = seeded(4);
    for (let round = 0; round < 12; round++) {
      const [w, h] = [1 + Math.floor(random() * 40), 2 + Math.floor(random() * 30)];
      const [x, y] = [Math.floor(random() * (width - w)), Math.floor(random() * (height - h))];
      const { sentence } = said(copied(base, (rgba) => paint(rgba, x, y, w, h)));
      expect(sentence).to.include(`in one place, ${w} × ${h} at ${x}, ${y}`);
    }
  });

  it('several places, with the largest', () => {
    const { sentence } = said(
      copied(base, (rgba) => {
        paint(rgba, 4, 4, 6, 5);
        paint(rgba, 100, 90, 20, 12);
        paint(rgba, 160, 8, 3, 3);
      }),
    );
    expect(sentence).to.match(/^279 pixels differ, in 3 places, the largest 20 × 12 at 100, 90/);
  });

  it('what was rolled or shifted, by how much and whither', () => {
    expect(said(moved(base, (x, y) => [(x - 30 + width) % width, (y + 11) % height])).sentence).to.equal(
      'The same picture, rolled by 30 pixels to the right and 11 pixels up.',
    );
    expect(said(moved(base, (x, y) => [x + 17, y])).sentence).to.equal(
      'The same picture, shifted by 17 pixels to the left.',
    );
  });

  it('a part, and more around the same', () => {
    const part: Raster = { width: 80, height: 60, rgba: new Uint8Array(80 * 60 * 4) };
    for (let y = 0; y < 60; y++)
      part.rgba.set(base.rgba.subarray(place(33, 21 + y), place(113, 21 + y)), y * 320);
    expect(comparePair(base, part).comparison.sentence).to.equal(
      'A part of the same picture: 80 × 60 at 33, 21 of 192 × 144.',
    );
    expect(comparePair(part, base).comparison.sentence).to.equal(
      'The same picture with more around it: it is 80 × 60 at 33, 21 of 192 × 144.',
    );
  });

  it('sizes in the words of people', async () => {
    const at = async (w: number, h: number): Promise<string> =>
      said(await made(base, (picture) => picture.resize(w, h, { fit: 'fill' }))).sentence;
    expect(await at(384, 288)).to.equal('The same picture, twice as large.');
    expect(await at(96, 72)).to.equal('The same picture, half as large.');
    expect(await at(240, 180)).to.equal('The same picture, 1.25 times as large.');
    expect(await at(288, 144)).to.equal('The same picture, stretched: 1.5 times as wide.');
  });

  it('channels in other places, the negative, grey, and alpha alone', () => {
    const swapped = copied(base, (rgba) => {
      for (let at = 0; at < rgba.length; at += 4)
        rgba.set([rgba[at + 2] ?? 0, rgba[at + 1] ?? 0, rgba[at] ?? 0], at);
    });
    expect(said(swapped).sentence).to.equal('The same picture with red and blue swapped.');
    const negative = copied(base, (rgba) => {
      for (let at = 0; at < rgba.length; at++) if (at % 4 < 3) rgba[at] = 255 - (rgba[at] ?? 0);
    });
    expect(said(negative).sentence).to.equal('The negative of the same picture.');
    const grey = copied(base, (rgba) => {
      for (let at = 0; at < rgba.length; at += 4) {
        const value = Math.round(
          0.299 * (rgba[at] ?? 0) + 0.587 * (rgba[at + 1] ?? 0) + 0.114 * (rgba[at + 2] ?? 0),
        );
        rgba.set([value, value, value], at);
      }
    });
    expect(said(grey).sentence).to.match(/^The same picture in grey, without its colours\.$/);
    const faded = copied(base, (rgba) => {
      for (let at = 3; at < rgba.length; at += 4) rgba[at] = 128;
    });
    expect(said(faded).sentence).to.equal(
      'Only alpha differs, in 100.0 % of the pixels: 100 % → 50 % in the mean.',
    );
  });

  it('detail that was lost, noise, and fewer colours', async () => {
    const half = await made(base, (picture) => picture.resize(96, 72));
    const lost = said(await made(half, (picture) => picture.resize(width, height)));
    expect(lost.nature).to.equal('filtered');
    expect(lost.sentence).to.match(/^The same picture, softer: \d+ % of its finest detail is left\.$/);
    const random = seeded(8);
    const noisy = copied(base, (rgba) => {
      for (let at = 0; at < rgba.length; at += 4) {
        const step = Math.round((random() - 0.5) * 60);
        for (let channel = 0; channel < 3; channel++)
          rgba[at + channel] = Math.max(0, Math.min(255, (rgba[at + channel] ?? 0) + step));
      }
    });
    expect(said(noisy).sentence).to.match(
      /^The same picture with noise on it, 1[3-6]\.\d of 255 in the mean\.$/,
    );
    const few = copied(base, (rgba) => {
      for (let at = 0; at < rgba.length; at++) if (at % 4 < 3) rgba[at] = (rgba[at] ?? 0) < 128 ? 60 : 190;
    });
    expect(said(few).sentence).to.match(/^The same picture in \d colours\.$/);
  });

  it('another picture, and no other for the same one packed with loss', async () => {
    for (let seed = 20; seed < 26; seed++)
      expect(said(await ground(seed)).sentence, String(seed)).to.equal('Another picture.');
    const packed = async (quality: number): Promise<Raster> => {
      const bytes = await sharp(base.rgba, { raw: { width, height, channels: 4 } })
        .jpeg({ quality, chromaSubsampling: '4:4:4' })
        .toBuffer();
      const { data } = await sharp(bytes).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
      return { width, height, rgba: new Uint8Array(data) };
    };
    expect(said(await packed(96), true).nature).to.equal('recompressed');
    const rough = said(await packed(25), true);
    expect(rough.nature).not.to.equal('recompressed');
    expect(rough.sentence).to.match(/packed with visible loss|softer/);
    // A change beneath loss is placed.
    const painted = copied(await packed(90), (rgba) => paint(rgba, 60, 40, 30, 24));
    expect(said(painted, true).sentence).to.match(/other in one place, \d+ × \d+ at (5\d|6\d), (3\d|4\d)\.$/);
  });
});
