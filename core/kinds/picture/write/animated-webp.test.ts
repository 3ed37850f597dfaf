import { expect } from 'chai';
import sharp from 'sharp';
import { animatedWebp } from './animated-webp.ts';

/** A square of one colour, coded by the library. */
const square = async (colour: string, isLossless: boolean, side = 6): Promise<Uint8Array> =>
  sharp({ create: { width: side, height: side, channels: 4, background: colour } })
    .webp(isLossless ? { lossless: true } : { quality: 90 })
    .toBuffer();

describe('animatedWebp', () => {
  it('is read frame by frame as it was put together (by libwebp, in sharp)', async () => {
    const stills = await Promise.all([
      square('#ff0000', true),
      square('#00ff0080', true),
      square('#0000ff80', false),
    ]);
    const file = animatedWebp(stills, { width: 6, height: 6, milliseconds: 70 });
    const read = sharp(file, { animated: true });
    expect(await read.metadata()).to.include({ format: 'webp', pages: 3, pageHeight: 6, width: 6, loop: 0 });
    expect((await read.metadata()).delay).to.deep.equal([70, 70, 70]);
    const { data } = await read.ensureAlpha().raw().toBuffer({ resolveWithObject: true });
    const pixel = (frame: number): number[] => [...data.subarray(frame * 6 * 6 * 4, frame * 6 * 6 * 4 + 4)];
    expect(pixel(0)).to.deep.equal([255, 0, 0, 255]);
    // In the place of the one before, not over it.
    expect(pixel(1)).to.deep.equal([0, 255, 0, 128]);
    expect(pixel(2)[3]).to.equal(128);
    expect(pixel(2)[2]).to.be.above(245);
  });

  it('refuses what is no picture, and numbers that have no room', async () => {
    const still = await square('#fff', true);
    const size = { width: 6, height: 6, milliseconds: 40 };
    expect(() => animatedWebp([], size)).to.throw(RangeError, 'needs a frame');
    expect(() => animatedWebp([still, new Uint8Array(40)], size)).to.throw(RangeError, 'frame 1 is no WebP');
    expect(() => animatedWebp([still.subarray(0, 30)], size)).to.throw(RangeError, 'frame 0');
    expect(() => animatedWebp([still], { ...size, width: 0 })).to.throw(RangeError, '0 pixels');
    expect(() => animatedWebp([still], { ...size, height: 20_000 })).to.throw(RangeError);
    expect(() => animatedWebp([still], { ...size, milliseconds: 0.5 })).to.throw(RangeError, 'ms');
  });
});
