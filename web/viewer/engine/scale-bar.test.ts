import { expect } from 'chai';
import { roundLength } from './scale-bar.ts';

describe('roundLength', () => {
  it('gives a length that a person can count with', () => {
    expect(
      [0.0013, 0.03, 0.7, 1, 4.9, 5, 99, 120].map(roundLength).map((length) => Number(length.toPrecision(6))),
    ).to.deep.equal([0.001, 0.02, 0.5, 1, 2, 5, 50, 100]);
  });
});
