import { expect } from 'chai';
import { readFileSync } from 'node:fs';

import { bc1, bc1Opaque, bc2, bc3, bc4, bc5 } from '../kinds/picture/blocks/bc1-to-bc5.ts';
import { bc7 } from '../kinds/picture/blocks/bc7.ts';
import { joinBlocks8 } from '../kinds/picture/blocks/block-images.ts';
import { joinBc1To5, joinBc7 } from '../kinds/picture/blocks/join-in-kernel.ts';
import { countHere, countInKernel } from '../kinds/picture/compare/differences.ts';
import { averageHere, shrink } from '../kinds/picture/shrink.ts';
import { seeded } from '../../demo/seeded.ts';
import { compileKernels } from './compile.js';
import { findKernels, type Kernels } from './kernels.ts';

type Random = () => number;

function kernelsHere(): Kernels {
  const kernels = findKernels();
  if (!kernels) throw new Error('this engine has no WebAssembly with vectors');
  return kernels;
}

function noise(random: Random, length: number): Uint8Array {
  return Uint8Array.from({ length }, () => random() * 256);
}

/** Opaque and clear stretches, and some that let a little through, as sprites have them. */
function sprite(random: Random, width: number, height: number): Uint8Array {
  const rgba = noise(random, width * height * 4);
  for (let pixel = 0; pixel < width * height; pixel++) {
    const stretch = Math.floor(pixel / 23) % 3;
    if (stretch < 2) rgba[pixel * 4 + 3] = stretch * 255;
  }
  return rgba;
}

/** Whole blocks and cut ones; the last is broader than most that lie in one strip. */
const sizes = [
  [4, 4],
  [64, 64],
  [257, 61],
  [1, 9],
  [4100, 8],
] as const;

describe('Kernels', () => {
  it('are what the sources of today compile to', async () => {
    const committed = readFileSync(new URL('./module.ts', import.meta.url), 'utf8');
    expect(await compileKernels()).to.equal(committed);
  }).timeout(120_000);

  it('decode every mode of BC7 to the same bytes, at any size', () => {
    const random = seeded(1);
    for (const [width, height] of sizes) {
      const blocks = noise(random, Math.ceil(width / 4) * Math.ceil(height / 4) * 16);
      // One mode after the other; the ninth is the reserved one.
      for (let block = 0; block < blocks.length / 16; block++) {
        const mode = block % 9;
        blocks[block * 16] = mode === 8 ? 0 : ((blocks[block * 16] ?? 0) | 0xff) & (0xff << mode);
      }
      expect(joinBc7(blocks, width, height)).to.deep.equal(joinBlocks8(blocks, width, height, 16, bc7));
    }
  });

  it('decode BC1 to BC5 to the same bytes, at any size', () => {
    const random = seeded(2);
    const decoders = { bc1Opaque, bc1, bc2, bc3, bc4, bc5 };
    for (const [width, height] of sizes)
      for (const [format, decode] of Object.entries(decoders)) {
        const blockBytes = format.startsWith('bc1') || format === 'bc4' ? 8 : 16;
        const blocks = noise(random, Math.ceil(width / 4) * Math.ceil(height / 4) * blockBytes);
        // Equal ends, too, which noise hardly has.
        blocks.fill(77, 0, blockBytes);
        const joined = joinBc1To5(blocks, width, height, blockBytes, format as keyof typeof decoders);
        expect(joined, format).to.deep.equal(joinBlocks8(blocks, width, height, blockBytes, decode));
      }
  });

  it('decode what is cut short as clear black from there on', () => {
    const random = seeded(2);
    const blocks = noise(random, 15 * 16);
    const whole = new Uint8Array(16 * 16);
    whole.set(blocks);
    expect(joinBc7(blocks, 16, 16)).to.deep.equal(joinBlocks8(whole, 16, 16, 16, bc7));
  });

  it('shrink to the same bytes, whatever lets through what', () => {
    const random = seeded(3);
    for (const [width, height, side] of [
      [300, 200, 256],
      [1024, 7, 96],
      [33, 1000, 32],
      [65_536, 3, 64],
      [40_000, 5, 256],
    ] as const)
      for (const rgba of [
        noise(random, width * height * 4),
        sprite(random, width, height),
        noise(random, width * height * 4).map((value, at) => (at % 4 === 3 ? 255 : value)),
      ]) {
        const small = shrink({ width, height, data: rgba }, side);
        expect(small.rgba, `${width} x ${height}`).to.deep.equal(
          averageHere(rgba, width, height, small.width, small.height),
        );
      }
  });

  it('count the same differences', () => {
    const random = seeded(4);
    for (const [width, height, factor, share] of [
      [300, 200, 3, 1],
      [300, 200, 3, 0.01],
      [64, 64, 1, 0.5],
      [5000, 40, 20, 0.2],
      [17, 1500, 6, 0.9],
      [1, 1, 1, 1],
      [128, 128, 2, 0],
    ] as const) {
      const old = { width, height, rgba: sprite(random, width, height) };
      const now = { width, height, rgba: old.rgba.slice() };
      for (let at = 0; at < now.rgba.length; at++)
        if (random() < share) now.rgba[at] = (now.rgba[at] ?? 0) + Math.floor(random() * 5);
      const counted = countInKernel(kernelsHere(), old, now, factor);
      const expected = countHere(old, now, factor);
      expect(
        { ...counted, sampled: [...Array.from(counted.sampled)] },
        `${width} x ${height}, ${share}`,
      ).to.deep.equal({ ...expected, sampled: [...Array.from(expected.sampled)] });
    }
  });
});
