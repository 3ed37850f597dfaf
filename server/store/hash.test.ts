import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { hashOf, startHash } from './hash.ts';

/**
 * Published test vectors of BLAKE3 (test_vectors.json of the specification's repository): the input counts
 * 0, 1, … 250 and starts over; the first 32 bytes of the `hash` of some lengths. Written down from memory and
 * confirmed by b3sum below.
 */
const vectors: [number, string][] = [
  [0, 'af1349b9f5f9a1a6a0404dea36dcc9499bcb25c9adc112b7cc9a93cae41f3262'],
  [1, '2d3adedff11b61f14c886e35afa036736dcd87a74d27b5c1510225d0f592e213'],
  [1024, '42214739f095a406f3fc83deb889744ac00df831c10daa55189b5d121c855af7'],
];
const input = (length: number): Buffer => Buffer.from(Array.from({ length }, (_, index) => index % 251));

describe('hashOf', () => {
  for (const [length, hash] of vectors) {
    it(`gives the published hash of ${length} bytes`, () => {
      expect(hashOf(input(length)).toString('hex')).to.equal(hash);
    });
  }

  it('equals b3sum, whole and in pieces', () => {
    for (const length of [0, 1, 63, 64, 65, 1023, 1024, 1025, 8193, 102_400, 1_500_001]) {
      const bytes = input(length);
      const { stdout } = spawnSync('b3sum', ['--no-names'], { input: bytes, encoding: 'utf8' });
      expect(hashOf(bytes).toString('hex')).to.equal(stdout.trim());
      const pieces = startHash();
      for (let at = 0; at < length; at += 777) pieces.update(bytes.subarray(at, at + 777));
      expect(pieces.digest().toString('hex')).to.equal(stdout.trim());
    }
  });
});
