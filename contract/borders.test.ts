import { expect } from 'chai';
import * as fc from 'fast-check';
import { findingPathsQuerySchema, findingsQuerySchema, mostSelected } from './findings.ts';
import { changeQuerySchema } from './history.ts';
import { passRequestSchema } from './pass.ts';
import { uploadRequestSchema } from './ways-in.ts';

/** Whatever comes from outside either is what it has to be, or is refused: nothing in between. */
describe('Schemas of what comes from outside', () => {
  const span = { channel: '1', from: '0.1', to: '0.2' };

  it('take numbers of an address as words, and fill in what is not there', () => {
    const query = findingsQuerySchema.parse({ ...span, offset: '200' });
    expect(query).to.include({ channel: 1, offset: 200, limit: 200, sort: 'path', noise: '' });
    expect(findingPathsQuerySchema.parse({ ...span, limit: String(mostSelected) }).limit).to.equal(
      mostSelected,
    );
  });

  it('refuse sizes that nobody can want', () => {
    for (const limit of ['0', '-1', '501', '1e9', 'many', '1.5', 'Infinity', 'NaN'])
      expect(findingsQuerySchema.safeParse({ ...span, limit }).success, limit).to.equal(false);
    for (const limit of ['0', String(mostSelected + 1)])
      expect(findingPathsQuerySchema.safeParse({ ...span, limit }).success, limit).to.equal(false);
    for (const offset of ['-1', '0.5', '1e400'])
      expect(findingsQuerySchema.safeParse({ ...span, offset }).success, offset).to.equal(false);
    expect(changeQuerySchema.safeParse({ limit: '100000' }).success).to.equal(false);
  });

  it('refuse words that mean nothing', () => {
    for (const wrong of [{ sort: 'colour' }, { mark: 'forgotten' }, { channel: 'main' }])
      expect(findingsQuerySchema.safeParse({ ...span, ...wrong }).success, JSON.stringify(wrong)).to.equal(
        false,
      );
  });

  it('give numbers within their limits whatever is in an address', () => {
    const word = fc.oneof(fc.string(), fc.integer().map(String), fc.double().map(String));
    fc.assert(
      fc.property(word, word, (offset, limit) => {
        const { data } = findingsQuerySchema.safeParse({ ...span, offset, limit });
        if (!data) return;
        expect(Number.isSafeInteger(data.offset) && data.offset >= 0).to.equal(true);
        expect(Number.isInteger(data.limit) && data.limit >= 1 && data.limit <= 500).to.equal(true);
      }),
      { seed: 20_261_128, numRuns: 500 },
    );
  });

  it('keep a change of marks to what a request can carry', () => {
    const request = { channel: 1, from: '0.1', to: '0.2', seen: 0, change: { mark: 'kept' } };
    expect(passRequestSchema.safeParse({ ...request, paths: ['a.png'] }).success).to.equal(true);
    const many = Array.from({ length: 100_001 }, () => 'a');
    expect(passRequestSchema.safeParse({ ...request, paths: many }).success).to.equal(false);
    expect(passRequestSchema.safeParse({ ...request, paths: [7] }).success).to.equal(false);
    expect(
      passRequestSchema.safeParse({ ...request, paths: ['a'], change: { mark: 'lost' } }).success,
    ).to.equal(false);
  });

  it('refuse uploads of no file, without a size, or of a size that is none', () => {
    const file = { path: 'game.zip', size: 10 };
    expect(uploadRequestSchema.safeParse({ name: 'game', files: [file] }).success).to.equal(true);
    for (const files of [
      [],
      [{ path: 'a' }],
      [{ ...file, size: -1 }],
      [{ ...file, size: 0.5 }],
      [{ ...file, size: 2 ** 60 }],
      'a',
    ])
      expect(uploadRequestSchema.safeParse({ name: 'game', files }).success, JSON.stringify(files)).to.equal(
        false,
      );
  });
});
