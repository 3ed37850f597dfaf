import { expect } from 'chai';
import { nextLabel } from './next-label.ts';

describe('nextLabel', () => {
  for (const [label, next] of [
    ['0.2', '0.3'],
    ['0.9', '0.10'],
    ['beta 3b', 'beta 4b'],
    ['2026-09', '2026-10'],
    ['r007', 'r008'],
    ['first', ''],
  ] as const)
    it(`${label} is followed by ${next || 'none'}`, () => expect(nextLabel(label)).to.equal(next));
});
