import { expect } from 'chai';
import { levelLoss, silhouetteDifference } from './level-loss.ts';

describe('What a level of detail has lost', () => {
  it('counts pixels that only one of two silhouettes covers, of all that either does', () => {
    // Two squares of 4 by 4 pixels, shifted by one: 12 are covered by both, 4 and 4 by one: 8 of 20.
    const square = (left: number): Uint8Array =>
      Uint8Array.from({ length: 64 }, (_, at) => (at % 8 >= left && at % 8 < left + 4 && at < 32 ? 255 : 0));
    expect(silhouetteDifference([square(0)], [square(1)])).to.equal(8 / 20);
    expect(silhouetteDifference([square(0), square(2)], [square(0), square(2)])).to.equal(0);
    expect(silhouetteDifference([square(0)], [new Uint8Array(64)])).to.equal(1);
  });

  it('names parts and bones that are gone, whatever level their names tell', () => {
    const loss = levelLoss(
      {
        triangles: 800,
        parts: ['hull_LOD0', 'rail', 'rail', 'rope'],
        bones: ['root', 'mast'],
        silhouettes: [],
      },
      { triangles: 200, parts: ['hull_LOD1', 'rail'], bones: ['root'], silhouettes: [] },
    );
    expect(loss).to.deep.include({
      triangles: 600,
      trianglePercent: 75,
      parts: ['rail', 'rope'],
      bones: ['mast'],
    });
    expect(loss.silhouettePercent).to.be.NaN;
  });
});
