import { expect } from 'chai';
import { cutRegion, packPixels, unpackPixels } from './pixel-bytes.ts';
import { drawView, type PictureView } from './draw-view.ts';
import { cropBox, histogramOf } from './figures-of-pixels.ts';
import { pyramidOf } from './pyramid.ts';
import { unfoldedSides } from './unfold.ts';
import type { Pixels } from '../picture.ts';

const plain: PictureView = {
  ...{ width: 2, height: 2, scale: 1, left: 0, top: 0, channels: 'all', exposure: 0 },
  ...{ isTiled: false, light: null, isGreenDown: false },
};
const bytes = (width: number, height: number, data: readonly number[]): Pixels => ({
  ...{ width, height, data: Uint8Array.from(data) },
});
const four = bytes(2, 2, [10, 20, 30, 255, 40, 50, 60, 128, 70, 80, 90, 0, 100, 110, 120, 255]);

describe('A picture as it is looked at', () => {
  it('shows stored values as they are, channels alone, and what lies under clear alpha', () => {
    const at = (change: Partial<PictureView>, pixel: number): number[] => [
      ...drawView([four], { ...plain, ...change }).subarray(pixel * 4, pixel * 4 + 4),
    ];
    expect(at({}, 1)).to.deep.equal([40, 50, 60, 128]);
    expect(at({ channels: 'colour' }, 2)).to.deep.equal([70, 80, 90, 255]);
    expect(at({ channels: 'green' }, 3)).to.deep.equal([110, 110, 110, 255]);
    expect(at({ channels: 'alpha' }, 1)).to.deep.equal([128, 128, 128, 255]);
    // Beside the picture there is nothing; tiled there is the picture again.
    expect(at({ left: 1 }, 1)).to.deep.equal([0, 0, 0, 0]);
    expect(at({ left: 1, isTiled: true }, 1)).to.deep.equal([10, 20, 30, 255]);
    expect(at({ left: -2, top: -2, isTiled: true }, 0)).to.deep.equal([10, 20, 30, 255]);
  });

  it('doubles the light with each step of exposure: sRGB 188 is half of white (IEC 61966-2-1)', () => {
    const grey = bytes(1, 1, [188, 188, 188, 255]);
    const view = { ...plain, width: 1, height: 1 };
    expect(drawView([grey], { ...view, exposure: 1 })[0]).to.be.within(254, 255);
    // A quarter of white is 137.
    expect(drawView([grey], { ...view, exposure: -1 })[0]).to.be.within(136, 138);
    const light: Pixels = { width: 1, height: 1, data: Float32Array.of(0.5, 4, 0.0005, 1) };
    // Half of white lies between 187 and 188.
    const [half, bright, dark] = drawView([light], view);
    expect(half).to.be.within(187, 188);
    expect([bright, dark]).to.deep.equal([255, 2]);
    expect(drawView([light], { ...view, exposure: -2 })[1]).to.equal(255);
    expect(drawView([light], { ...view, exposure: -3 })[1]).to.be.within(187, 189);
    const deep: Pixels = { width: 1, height: 1, data: Uint16Array.of(65535, 32896, 0, 65535) };
    expect([...drawView([deep], view)]).to.deep.equal([255, 128, 0, 255]);
  });

  it('draws small from means that clear pixels do not colour', () => {
    const checks = bytes(
      128,
      128,
      Array.from({ length: 128 * 128 }, (_, at) =>
        (at + (at >> 7)) % 2 === 0 ? [200, 0, 0, 255] : [0, 255, 0, 0],
      ).flat(),
    );
    const levels = pyramidOf(checks);
    expect(levels.map(({ width }) => width)).to.deep.equal([128, 64]);
    expect([...drawView(levels, { ...plain, scale: 0.5 }).subarray(0, 4)]).to.deep.equal([200, 0, 0, 128]);
  });

  it('lights a normal map from where the light stands, with green up or down', () => {
    // Straight at the viewer; and 45 degrees to the right and up.
    const flat = bytes(1, 1, [128, 128, 255, 255]);
    const tilted = bytes(1, 1, [128, 218, 218, 255]);
    const lit = (pixels: Pixels, x: number, y: number, isGreenDown = false): number =>
      drawView([pixels], { ...plain, width: 1, height: 1, light: { x, y }, isGreenDown })[0] ?? 0;
    expect(lit(flat, 0, 0)).to.be.within(233, 236);
    expect(lit(flat, 1, 0)).to.be.within(36, 40);
    // Lambert: towards the light it is whole; away from it, at 90 degrees, it is dark.
    expect(lit(tilted, 0, Math.SQRT1_2)).to.be.within(233, 236);
    expect(lit(tilted, 0, -Math.SQRT1_2)).to.be.within(36, 40);
    expect(lit(tilted, 0, -Math.SQRT1_2, true)).to.be.within(233, 236);
    // Two channels: blue is worked out.
    expect(lit(bytes(1, 1, [128, 218, 0, 255]), 0, Math.SQRT1_2)).to.be.within(233, 236);
  });

  it('counts values, and says what cropping would leave', () => {
    const { counts, ranges, pixels } = histogramOf(four);
    expect([counts[0][10], counts[3][255], pixels]).to.deep.equal([1, 2, 4]);
    expect(ranges[0]).to.deep.equal([10, 100]);
    const sprite = bytes(
      8,
      6,
      Array.from({ length: 48 }, (_, at) => {
        const [x, y] = [at % 8, Math.floor(at / 8)];
        return x >= 2 && x <= 4 && y >= 1 && y <= 4 && !(x === 3 && y === 2) ? [9, 9, 9, 255] : [0, 0, 0, 0];
      }).flat(),
    );
    expect(cropBox(sprite)).to.deep.equal({ left: 2, top: 1, width: 3, height: 4 });
    const onWhite = bytes(3, 1, [255, 255, 255, 255, 0, 0, 0, 255, 255, 255, 255, 255]);
    expect(cropBox(onWhite)).to.deep.equal({ left: 1, top: 0, width: 1, height: 1 });
    expect(cropBox(bytes(2, 1, [1, 1, 1, 255, 2, 2, 2, 255]))).to.deep.equal({
      left: 1,
      top: 0,
      width: 1,
      height: 1,
    });
    expect(cropBox(bytes(1, 1, [0, 0, 0, 0]))).to.equal(null);
  });

  it('travels exactly, in parts, and says where it is not whole', () => {
    const region = { left: 1, top: 0, width: 5, height: 2 };
    const cut = cutRegion(four, region);
    expect([cut.width, cut.height, ...cut.data.subarray(0, 4)]).to.deep.equal([1, 2, 40, 50, 60, 128]);
    for (const data of [
      cut.data,
      Uint16Array.of(1, 2, 3, 65535, 0, 0, 0, 9),
      Float32Array.of(1e9, -2, 3.5, 1, 0, 0, 0, 1),
    ]) {
      const packed = packPixels({
        ...{ pixels: { width: 1, height: 2, data }, region: { left: 1, top: 0, width: 1, height: 2 } },
        ...{ fullWidth: 16384, fullHeight: 300 },
      });
      const back = unpackPixels(packed.slice().buffer);
      expect([...back.pixels.data]).to.deep.equal([...data]);
      expect([back.fullWidth, back.fullHeight]).to.deep.equal([16384, 300]);
      expect(() => unpackPixels(packed.slice(0, -1).buffer)).to.throw('not whole');
    }
    expect(() => unpackPixels(new ArrayBuffer(3))).to.throw('not whole');
  });

  it('unfolds the sides of a cube: the one above lies over the front', () => {
    const sides = Array.from({ length: 6 }, (_, at) => bytes(1, 1, [at + 1, 0, 0, 255]));
    const { width, height, data } = unfoldedSides(sides);
    expect([width, height]).to.deep.equal([4, 3]);
    expect(Array.from({ length: 12 }, (_, at) => data[at * 4])).to.deep.equal([
      0, 3, 0, 0, 2, 5, 1, 6, 0, 4, 0, 0,
    ]);
  });
});
