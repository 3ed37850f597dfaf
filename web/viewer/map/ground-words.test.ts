import { expect } from 'chai';
import { groundChanges, groundPlace, groundSaid } from './ground-words.ts';

const said = (words: Record<string, string | undefined>) =>
  groundSaid({ get: (name) => words[name] ?? null }, { heights: ['a.png', 'b.png'], pictures: ['c.png'] });
const extent = { x: 1, z: -2.5, width: 64, depth: 32, isFlipped: true };

describe('What an address says of a ground', () => {
  it('is what was found where it says nothing, and none where it says so', () => {
    expect(said({})).to.deep.include({ heights: 'a.png', picture: 'c.png', isSaid: false, extent: null });
    expect(said({ ground: 'none' })).to.deep.include({ heights: null, isSaid: true });
    expect(said({ ground: 'other.png' })).to.deep.include({ heights: 'other.png', picture: 'c.png' });
  });

  it('comes back as it was said', () => {
    const words = { ...groundChanges.extent(extent), ...groundChanges.levels({ lowest: -1, highest: 8.25 }) };
    const { extent: place, levels } = said(words);
    expect(place).to.deep.equal(extent);
    expect(levels).to.deep.equal({ lowest: -1, highest: 8.25 });
    expect(said({ ...words, ...groundChanges.asFitted() })).to.deep.equal(said({}));
    // Another picture lies elsewhere.
    expect(said({ ...words, ...groundChanges.heights('b.png') }).extent).to.equal(null);
  });

  it('is nothing where it is no numbers', () => {
    for (const words of ['', '1,2', '1,2,3,x', '1,2,0,4', '1,2,3,-4', '1,2,3,Infinity', '1,,3,4'])
      expect(said({ extent: words }).extent, words).to.equal(null);
    expect(said({ levels: '1' }).levels).to.equal(null);
  });

  it('goes before what fits, and that before what is likely', () => {
    const likely = { ...extent, width: 200, isFlipped: false };
    const fitted = { extent, levels: { lowest: 1, highest: 2 }, standing: 9, within: 10 };
    expect(groundPlace(said({}), null, likely)).to.deep.equal({
      extent: likely,
      levels: { lowest: 0, highest: 10 },
    });
    expect(groundPlace(said({}), fitted, likely)).to.deep.equal({ extent, levels: fitted.levels });
    expect(groundPlace(said({ levels: '3,4' }), fitted, likely)).to.deep.equal({
      ...{ extent, levels: { lowest: 3, highest: 4 } },
    });
  });
});
