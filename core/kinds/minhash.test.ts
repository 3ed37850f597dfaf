import { expect } from 'chai';
import { Minhash, minhashBytes, sharedOf } from './minhash.ts';
import { simhashOf } from './simhash.ts';

function hashed(from: number, to: number): Uint8Array {
  const minhash = new Minhash();
  for (let value = from; value < to; value++) minhash.add(value);
  return minhash.bytes();
}

describe('Minhash', () => {
  it('shares as much as the sets do, within what so few bytes can tell', () => {
    for (const [overlap, expected] of [
      [1000, 1],
      [900, 900 / 1100],
      [500, 500 / 1500],
      [0, 0],
    ] as const) {
      let sum = 0;
      const rounds = 60;
      for (let round = 0; round < rounds; round++) {
        const begin = round * 10_000;
        const after = begin + 1000 - overlap;
        sum += sharedOf(hashed(begin, begin + 1000), hashed(after, after + 1000), 0).share / rounds;
      }
      // Of 60 times 32 bytes, three standard deviations.
      expect(sum, String(overlap)).to.be.closeTo(expected, 0.035);
    }
  });

  it('is the same in any order, and says of two sets of little that there is little to share', () => {
    const [one, other] = [new Minhash(), new Minhash()];
    for (const value of [3, 17, 80_000]) one.add(value);
    for (const value of [80_000, 3, 17, 3]) other.add(value);
    expect(one.bytes()).to.deep.equal(other.bytes());
    expect(sharedOf(one.bytes(), other.bytes(), 0)).to.deep.equal({ share: 1, weight: 3 / minhashBytes });
    const nothing = new Uint8Array(minhashBytes);
    expect(new Minhash().bytes()).to.deep.equal(nothing);
    expect(sharedOf(nothing, nothing, 0)).to.deep.equal({ share: 0, weight: 0 });
  });
});

describe('simhashOf', () => {
  const names = Array.from({ length: 40 }, (_, at) => `bone_${at}`);
  const differing = (a: Uint8Array, b: Uint8Array): number =>
    a.reduce((sum, byte, at) => sum + (byte ^ (b[at] ?? 0)).toString(2).replaceAll('0', '').length, 0);

  it('is the same in any order, near for nearly the same names, far for others', () => {
    const whole = simhashOf(names);
    expect(simhashOf([...names].reverse())).to.deep.equal(whole);
    expect(differing(whole, simhashOf(names.slice(2)))).to.be.at.most(12);
    expect(differing(whole, simhashOf(names.map((name) => `${name} of another`)))).to.be.at.least(20);
    expect(simhashOf([])).to.deep.equal(new Uint8Array(8));
  });
});
