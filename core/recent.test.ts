import { expect } from 'chai';
import { keepRecent } from './recent.ts';

describe('keepRecent', () => {
  it('forgets what was not asked for the longest', () => {
    const kept = new Map<string, number>();
    for (const [at, key] of ['heron', 'reed', 'heron', 'lamp', 'rope'].entries())
      keepRecent(kept, key, at, 3);
    expect([...kept]).to.deep.equal([
      ['heron', 2],
      ['lamp', 3],
      ['rope', 4],
    ]);
  });
});
