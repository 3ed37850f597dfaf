import { expect } from 'chai';
import { labelledMarks, placeMarks } from './line-scale.ts';

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

describe('labelledMarks', () => {
  it('labels all where there is room', () => {
    expect([...labelledMarks([0, 60, 120], [], 58)].sort()).to.deep.equal([0, 1, 2]);
  });

  it('labels of a hundred those that are picked, the newest, and what touches none of them', () => {
    const places = placeMarks(
      Array.from({ length: 100 }, (_, at) => at),
      700,
      62,
    );
    const shown = labelledMarks(places, [40, 41], 58);
    expect([...shown]).to.include.members([40, 41, 99]);
    const others = [...shown].filter((at) => at !== 41).sort((a, b) => a - b);
    for (const [order, at] of others.entries())
      if (order > 0) expect((places[at] ?? 0) - (places[others[order - 1] ?? 0] ?? 0)).to.be.at.least(58);
    expect(shown.size).to.be.within(8, 13);
  });
});
