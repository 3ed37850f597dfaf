import { expect } from 'chai';
import { placeMarks } from './line-scale.ts';

describe('placeMarks', () => {
  it('is to scale where there is room', () => {
    expect(placeMarks([0, 25, 100], 200, 10)).to.deep.equal([0, 50, 200]);
  });

  it('pushes neighbours apart and stays on the line', () => {
    expect(placeMarks([0, 99, 100], 200, 20)).to.deep.equal([0, 180, 200]);
    expect(placeMarks([0, 0, 0], 200, 20)).to.deep.equal([100, 120, 140]);
  });

  it('shares the line evenly where even the gaps do not fit', () => {
    expect(placeMarks([0, 1, 2, 3, 4], 40, 20)).to.deep.equal([0, 10, 20, 30, 40]);
  });
});
