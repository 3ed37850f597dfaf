import { expect } from 'chai';
import fc from 'fast-check';
import { equalEnds } from './equal-ends.ts';

describe('equalEnds', () => {
  it('never counts an item twice, and leaves a middle that differs at both ends', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(3)), fc.array(fc.nat(3)), (before, after) => {
        const { start, end } = equalEnds(before, after);
        expect(start + end).to.be.at.most(Math.min(before.length, after.length));
        expect(before.slice(0, start)).to.deep.equal(after.slice(0, start));
        expect(before.slice(before.length - end)).to.deep.equal(after.slice(after.length - end));
        const middle = [
          before.slice(start, before.length - end),
          after.slice(start, after.length - end),
        ] as const;
        if (middle[0].length > 0 && middle[1].length > 0) {
          expect(middle[0][0]).not.to.equal(middle[1][0]);
          expect(middle[0].at(-1)).not.to.equal(middle[1].at(-1));
        }
      }),
      { seed: 7, numRuns: 500 },
    );
  });
});
