import { expect } from 'chai';
import { throughputOf } from './queueing.ts';

describe('Workers that share stations', () => {
  it('get done what the machine repairman model says (one station: the closed form, Kleinrock 1975, vol. 1, 3.8, from memory)', () => {
    const [own, shared] = [9, 1];
    for (const { workers, perSecond } of throughputOf(own, [{ name: 'database', seconds: shared }], 12)) {
      // P0 of M/M/1//N: 1 / sum of N! / (N - k)! (shared / own)^k; with exponential times both give the same.
      let [sum, term] = [0, 1];
      for (let k = 0; k <= workers; k++) {
        sum += term;
        term *= (workers - k) * (shared / own);
      }
      expect(perSecond).to.be.closeTo((1 - 1 / sum) / shared, 1e-12);
    }
  });

  it('are as many times as fast where nothing is shared, and never faster than what is shared allows', () => {
    expect(throughputOf(2, [], 10).at(-1)).to.deep.include({ perSecond: 5, speedUp: 10 });
    const [last] = throughputOf(1, [{ name: 'database', seconds: 0.5 }], 100).slice(-1);
    expect(last?.perSecond).to.be.closeTo(2, 1e-6);
    expect(last?.busy.database).to.be.closeTo(1, 1e-6);
  });
});
