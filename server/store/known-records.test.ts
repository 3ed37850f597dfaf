import { expect } from 'chai';
import { hashOf } from './hash.ts';
import { KnownRecords } from './known-records.ts';

const key = (text: string): Buffer => hashOf(Buffer.from(text));

describe('KnownRecords', () => {
  it('knows what it was made of and nothing else, in another thread too', () => {
    const records = Array.from({ length: 5000 }, (_, index) => ({
      key: key(`in ${index}`),
      value: Buffer.from([index & 255, index >> 8]),
    }));
    const made = KnownRecords.sized(records.length, 32, 2);
    for (const record of records) made.add(record.key, 0, record.value);
    const known = new KnownRecords(made.memory, 32, 2);
    expect(records.every((record) => known.get(record.key)?.equals(record.value))).to.equal(true);
    expect(
      Array.from({ length: 5000 }, (_, index) => key(`out ${index}`)).some((other) => known.has(other)),
    ).to.equal(false);
  });

  it('is empty when made of nothing', () => {
    expect(KnownRecords.sized(0, 16).has(key('x').subarray(0, 16))).to.equal(false);
    expect(KnownRecords.sized(0, 16, 3).get(key('x').subarray(0, 16))).to.equal(null);
  });
});
