import { expect } from 'chai';
import { depthSlices } from './depth-slices.ts';

describe('Slices of depth', () => {
  it('are one for a model that is looked at as a whole', () => {
    const [only, ...more] = depthSlices([{ distance: 3, radius: 1 }]);
    expect(more).to.deep.equal([]);
    expect(only?.near).to.be.within(1.9, 2);
    expect(only?.far).to.be.within(4, 4.1);
  });

  it('hold a thing of a millimetre and one of ten kilometres at once, each with its precision', () => {
    const slices = depthSlices([
      { distance: 0.003, radius: 0.001 },
      { distance: 4000, radius: 10_000 },
    ]);
    expect(slices.length).to.be.within(2, 5);
    expect(slices[0]?.far).to.be.above(14_000);
    expect(slices.at(-1)?.near).to.be.below(0.002);
    for (const { near, far } of slices) expect(far / near).to.be.at.most(1001);
    // The farthest first, without a gap.
    for (let at = 1; at < slices.length; at++)
      expect(slices[at]?.far).to.be.closeTo(slices[at - 1]?.near ?? 0, (slices[at]?.far ?? 0) * 1e-9);
  });

  it('begin before the eye where it is within something, and are none where all is behind it', () => {
    const [only] = depthSlices([{ distance: 0, radius: 2 }]);
    expect(only?.near).to.be.above(0).and.below(0.01);
    expect(depthSlices([{ distance: -9, radius: 2 }])).to.deep.equal([]);
    expect(depthSlices([])).to.deep.equal([]);
  });

  it('are few whatever the sizes', () => {
    expect(
      depthSlices([
        { distance: 1e-12, radius: 0 },
        { distance: 1e12, radius: 1 },
      ]).length,
    ).to.be.at.most(5);
  });
});
