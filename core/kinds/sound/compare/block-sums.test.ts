import { expect } from 'chai';
import { seeded } from '../../../../demo/seeded.ts';
import { findKernels } from '../../../kernels/kernels.ts';
import { floatsOf } from '../decoded.ts';
import { blockMaxima } from '../loudness.ts';
import { blockSums, mixtureOf } from './block-sums.ts';

const random = seeded(8);
const noise = (length: number): Float32Array => Float32Array.from({ length }, () => random() * 2 - 1);

describe('Sums of blocks', () => {
  for (const [inputs, outputs, shift, lengths] of [
    [1, 1, 0, [70_000, 70_000]],
    [2, 2, 37, [70_001, 60_013]],
    [2, 1, -250, [500, 900]],
    [6, 2, 0, [9000, 9000]],
    [8, 8, 3, [1000, 2000]],
    [1, 2, 50, [20, 30]],
  ] as const)
    it(`are the same from the kernel: ${inputs} channels to ${outputs}, ${shift} frames later`, () => {
      const old = Array.from({ length: inputs }, (_, at) => noise(lengths[0] - (at > 3 ? 7 : 0)));
      const now = Array.from({ length: outputs }, () => noise(lengths[1]));
      const [fast, plain] = [undefined, null].map((kernels) => blockSums(old, now, shift, 44_100, kernels));
      expect(findKernels()).not.to.equal(null);
      expect({ ...fast, sums: 0 }).to.deep.equal({ ...plain, sums: 0 });
      expect(fast?.sums).to.have.length(plain?.sums.length ?? -1);
      fast?.sums.forEach((sum, at) => expect(sum, String(at)).to.be.closeTo(plain?.sums[at] ?? NaN, 1e-9));
    });

  it('give back the mixture that a sound was made by', () => {
    const [left, right] = [noise(50_000), noise(50_000)];
    const mixed = left.map((value, at) => 0.5 * value - 0.25 * (right[at] ?? 0) + 0.1);
    const [factors = []] = mixtureOf(blockSums([left, right], [mixed], 0, 48_000), () => true);
    [0.5, -0.25, 0.1].forEach((factor, at) => expect(factors[at]).to.be.closeTo(factor, 1e-6));
  });
});

describe('Samples in the kernel', () => {
  it('have the same peaks, block by block, whatever their number', () => {
    for (const length of [0, 1, 255, 256, 257, 70_003, 65_536 * 2]) {
      const samples = noise(length);
      if (length > 300) samples[299] = NaN;
      expect(blockMaxima(samples)).to.deep.equal(blockMaxima(samples, null));
    }
  });

  it('are the same floats, of 16 and of 32 bits, of one channel and of many', () => {
    for (const [channels, frames] of [
      [1, 70_000],
      [2, 50_001],
      [6, 12_345],
    ] as const)
      for (const full of [2 ** 15, 2 ** 31]) {
        const values = Array.from({ length: channels * frames }, () => Math.floor((random() * 2 - 1) * full));
        values.splice(0, 3, -full, full - 1, 0);
        const integers = full === 2 ** 15 ? Int16Array.from(values) : Int32Array.from(values);
        const sound = {
          channels,
          frames,
          samples: { integers },
          sampleRate: 1,
          coding: '',
          bits: 16,
          damage: null,
        };
        expect(floatsOf(sound)).to.deep.equal(floatsOf(sound, null));
      }
  });
});
