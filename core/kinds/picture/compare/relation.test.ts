import { expect } from 'chai';
import sharp, { type Sharp } from 'sharp';
import { seeded } from '../../../../demo/seeded.ts';
import type { Raster } from '../../reading.ts';
import { relationOf } from './relation.ts';

/** A picture of soft blots, unlike its own mirror images. */
async function blots(seed: number, width = 96, height = 72): Promise<Raster> {
  const random = seeded(seed);
  const rgb = Buffer.from(Array.from({ length: 12 * 9 * 3 }, () => Math.floor(random() * 256)));
  const rgba = await sharp(rgb, { raw: { width: 12, height: 9, channels: 3 } })
    .resize(width, height, { kernel: 'cubic', fit: 'fill' })
    .ensureAlpha()
    .raw()
    .toBuffer();
  return { width, height, rgba: new Uint8ClampedArray(rgba) as never };
}

/** What a general-purpose library makes of a picture. */
async function made({ width, height, rgba }: Raster, change: (picture: Sharp) => Sharp): Promise<Raster> {
  const picture = sharp(Buffer.from(rgba), { raw: { width, height, channels: 4 } });
  const { data, info } = await change(picture).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, rgba: new Uint8ClampedArray(data) as never };
}

/** How one picture was made of another, by what sharp made of it. */
describe('relationOf', () => {
  const turns: [string, (picture: Sharp) => Sharp, string][] = [
    ['mirrored', (picture) => picture.flop(), 'left to right'],
    ['put upside down', (picture) => picture.flip(), 'top to bottom'],
    ['turned by half', (picture) => picture.rotate(180), 'turned by 180°'],
  ];
  for (const [name, change, how] of turns)
    it(`tells what was ${name}`, async () => {
      const old = await blots(3);
      expect(relationOf(old, await made(old, change))).to.deep.equal({ nature: 'mirrored', how });
    });

  it('tells quarter turns of square pictures', async () => {
    const old = await blots(4, 80, 80);
    const right = relationOf(old, await made(old, (picture) => picture.rotate(90)));
    const left = relationOf(old, await made(old, (picture) => picture.rotate(270)));
    expect([right?.nature, left?.nature]).to.deep.equal(['mirrored', 'mirrored']);
    expect(right).not.to.deep.equal(left);
  });

  it('does not look at the colours of what nothing shows of', async () => {
    const old = await blots(8, 24, 16);
    // Covered in the middle alone; beyond, colours that nobody sees, other ones in each.
    const covered = (picture: Raster, seed: number): Raster => {
      const random = seeded(seed);
      const rgba = new Uint8Array(picture.rgba);
      for (let at = 0; at < rgba.length; at += 4) {
        const [x, y] = [(at / 4) % picture.width, Math.floor(at / 4 / picture.width)];
        const isIn =
          Math.abs(x / picture.width - 0.5) < 0.25 && y > picture.height / 4 && y < picture.height * 0.75;
        if (!isIn) rgba.set([random() * 256, random() * 256, random() * 256, 0], at);
      }
      return { ...picture, rgba };
    };
    const larger = await made(old, (picture) => picture.resize(48, 32, { kernel: 'nearest' }));
    expect(relationOf(covered(old, 1), covered(larger, 2))).to.deep.equal({ nature: 'rescaled', factor: 2 });
  });

  it('tells what was made larger or smaller, and by how much', async () => {
    const old = await blots(5);
    expect(relationOf(old, await made(old, (picture) => picture.resize(192, 144)))).to.deep.equal({
      nature: 'rescaled',
      factor: 2,
    });
    expect(relationOf(old, await made(old, (picture) => picture.resize(48, 36)))).to.deep.equal({
      nature: 'rescaled',
      factor: 0.5,
    });
    // Another shape is told as that.
    const squeezed = await made(old, (picture) => picture.resize(96, 36, { fit: 'fill' }));
    expect(relationOf(old, squeezed)).to.deep.equal({ nature: 'stretched', across: 1, down: 0.5 });
  });

  it('tells borders, on either side, with their widths', async () => {
    const old = await blots(6);
    const border = { left: 5, top: 7, right: 11, bottom: 3, background: '#000000' };
    const wider = await made(old, (picture) => picture.extend(border));
    const widths = { left: 5, top: 7, right: 11, bottom: 3 };
    expect(relationOf(old, wider)).to.deep.equal({ nature: 'bordered', wider: 'new', ...widths });
    expect(relationOf(wider, old)).to.deep.equal({ nature: 'bordered', wider: 'old', ...widths });
  });

  it('tells other colours everywhere, by how much brighter they are', async () => {
    const old = await blots(7);
    const darker = relationOf(old, await made(old, (picture) => picture.linear(0.6, 0)));
    expect(darker?.nature).to.equal('recoloured');
    expect(darker?.nature === 'recoloured' ? darker.gain : 0).to.be.closeTo(0.6, 0.02);
    // One place that does not follow is a change of its own.
    const spot = await made(old, (picture) =>
      picture.linear(0.6, 0).composite([
        {
          input: { create: { width: 20, height: 20, channels: 4, background: 'white' } },
          left: 10,
          top: 10,
        },
      ]),
    );
    expect(relationOf(old, spot)).to.equal(null);
  });

  it('claims nothing of two pictures that have nothing to do with each other', async () => {
    for (let seed = 20; seed < 30; seed++)
      expect(relationOf(await blots(seed), await blots(seed + 50)), String(seed)).to.equal(null);
    // Nor of an even one, from which everything would follow.
    const even = await made(await blots(1), (picture) => picture.linear(0, 90));
    expect(relationOf(await blots(1), even)).to.equal(null);
  });
});
