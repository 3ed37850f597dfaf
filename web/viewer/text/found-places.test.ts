import { expect } from 'chai';
import { foundPlaces, placeFrom } from './found-places.ts';

describe('Finding in texts', () => {
  it('finds words in whatever case, and none within themselves', () => {
    expect(foundPlaces('Mast mast MAST', 'mast').places).to.deep.equal([0, 5, 10]);
    expect(foundPlaces('aaaa', 'aa').places).to.deep.equal([0, 2]);
    expect(foundPlaces('sail', '').places).to.deep.equal([]);
    expect(foundPlaces('a.b', '.').places).to.deep.equal([1]);
  });

  it('keeps places where small letters are more than capitals', () => {
    expect(foundPlaces('İİ Mast', 'mast').places).to.deep.equal([3]);
  });

  it('stops counting where nobody would', () => {
    const { places, isCut } = foundPlaces('a'.repeat(20_000), 'a');
    expect([places.length, isCut]).to.deep.equal([10_000, true]);
  });

  it('goes from one to the next, and round', () => {
    const places = [3, 8, 20];
    expect([0, 3, 4, 21].map((cursor) => placeFrom(places, cursor, false))).to.deep.equal([0, 0, 1, 0]);
    expect([21, 8, 3].map((cursor) => placeFrom(places, cursor, true))).to.deep.equal([2, 0, 2]);
    expect(placeFrom([], 5, false)).to.equal(-1);
  });
});
