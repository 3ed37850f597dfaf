import { expect } from 'chai';
import { seeded } from '../../../demo/seeded.ts';
import { hashOfData } from './data-hash.ts';

const print = (value: unknown): string => Buffer.from(hashOfData(value) ?? []).toString('hex');

describe('hashOfData', () => {
  it('is the same whatever the order of keys, and another for other values, orders of lists and nestings', () => {
    expect(print({ a: 1, b: [2, { c: 3, d: 4 }] })).to.equal(print({ b: [2, { d: 4, c: 3 }], a: 1 }));
    const others = [
      [1, 2],
      [2, 1],
      [[1], 2],
      { a: 1 },
      { a: '1' },
      { a: 2 },
      { b: 1 },
      { a: null },
      { a: false },
      [],
      {},
      '',
      0,
      null,
      [null],
      'ab',
      ['a', 'b'],
      { a: 1, b: 2 },
      { a: 2, b: 1 },
      [{}],
      [[]],
    ];
    expect(new Set(others.map(print)).size).to.equal(others.length);
  });

  it('tells a hundred thousand values that are near each other apart', () => {
    const seen = new Set<string>();
    for (let at = 0; at < 50_000; at++) {
      seen.add(print({ id: at, name: `thing_${at}` }));
      seen.add(print([at, at + 1]));
    }
    expect(seen.size).to.equal(100_000);
  });

  it('spreads its bits evenly over seeded values', () => {
    const random = seeded(3);
    const counts = new Array<number>(128).fill(0);
    for (let round = 0; round < 4000; round++) {
      const bytes = hashOfData({ x: random(), y: [round] }) ?? new Uint8Array(16);
      for (let bit = 0; bit < 128; bit++)
        counts[bit] = (counts[bit] ?? 0) + (((bytes[bit >> 3] ?? 0) >> (bit & 7)) & 1);
    }
    // Four deviations of a fair coin's 4000 throws are 126.
    for (const count of counts) expect(Math.abs(count - 2000)).to.be.lessThan(160);
  });

  it('gives nothing for what is nested too deep', () => {
    let deep: unknown = 1;
    for (let at = 0; at < 200_000; at++) deep = [deep];
    expect(hashOfData(deep)).to.equal(null);
  });
});
