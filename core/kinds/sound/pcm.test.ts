import { expect } from 'chai';
import { aLawSample, muLawSample, pcmSamples } from './pcm.ts';

describe('pcmSamples', () => {
  const layout = { bits: 16, sampleBytes: 2, isBigEndian: false, isSigned: true, isFloat: false };
  const integers = (bytes: readonly number[], more: Partial<typeof layout>, shift = 0): number[] => {
    const place = Uint8Array.from([...Array.from({ length: shift }, () => 0), ...bytes]).subarray(shift);
    const samples = pcmSamples(place, 1, { ...layout, ...more });
    return 'integers' in samples ? [...samples.integers] : [];
  };

  it('reads the same from an even and from an odd place in memory, a Buffer’s too', () => {
    for (const shift of [0, 1])
      expect(integers([0xff, 0x7f, 0, 0x80, 1, 0], {}, shift)).to.deep.equal([32_767, -32_768, 1]);
    const part = Buffer.from([9, 0xff, 0x7f, 0, 0x80]).subarray(1);
    const samples = pcmSamples(part, 1, layout);
    expect('integers' in samples && [...samples.integers]).to.deep.equal([32_767, -32_768]);
  });

  it('puts the sign of every depth into the highest bit, in as few bits as hold it', () => {
    expect(integers([0, 128, 255], { sampleBytes: 1, isSigned: false })).to.deep.equal([
      -32_768,
      0,
      127 << 8,
    ]);
    expect(integers([0x80, 0, 127], { sampleBytes: 1 })).to.deep.equal([-32_768, 0, 127 << 8]);
    expect(integers([0, 0xff, 0x7f], { sampleBytes: 3 })).to.deep.equal([32_767]);
    expect(integers([1, 0xff, 0x7f], { sampleBytes: 3 })).to.deep.equal([0x7fff0100]);
    expect(integers([0x7f, 0xff, 1], { sampleBytes: 3, isBigEndian: true })).to.deep.equal([0x7fff0100]);
    expect(integers([0x80, 0, 0, 0], { sampleBytes: 4, isBigEndian: true })).to.deep.equal([-32_768]);
  });
});

describe('G.711', () => {
  // ITU-T G.711: table 1a for A-law (times 8 in 16 bits) and table 2a for µ-law (times 4), from memory of the standard.
  it('expands the least and the greatest code of either sign', () => {
    expect([0xd5, 0x55, 0xaa, 0x2a].map(aLawSample)).to.deep.equal([8, -8, 32_256, -32_256]);
    expect([0xff, 0x7f, 0x80, 0x00].map(muLawSample).map((value) => value + 0)).to.deep.equal([
      0, 0, 32_124, -32_124,
    ]);
  });
});
