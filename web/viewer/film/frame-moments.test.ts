import { expect } from 'chai';
import { frameMoments, momentText } from './frame-moments.ts';

describe('frames of a film', () => {
  it('are the middles of parts of one length', () => {
    const moments = frameMoments(48);
    expect(moments.length).to.equal(24);
    expect(moments.slice(0, 2)).to.deep.equal([1, 3]);
    expect(moments.at(-1)).to.equal(47);
  });

  it('are fewer where a film is short, and one where it says no length', () => {
    expect(frameMoments(0.35)).to.have.length(3);
    expect(frameMoments(0.01)).to.deep.equal([0.005]);
    expect([frameMoments(0), frameMoments(NaN)]).to.deep.equal([[0], [0]]);
  });

  it('are called by minutes and seconds', () => {
    expect([0, 3.25, 59.96, 64.3, 3600].map(momentText)).to.deep.equal([
      ...['0:00.0', '0:03.3', '1:00.0', '1:04.3', '60:00.0'],
    ]);
  });
});
