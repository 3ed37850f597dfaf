import { expect } from 'chai';
import { Minhash, sharedOf } from '../../kinds/minhash.ts';
import { modelSignatureParts } from '../../kinds/model/signature.ts';
import { BandIndex } from './band-index.ts';

/** A model's signature of which only the triangles are known: numbers from one on up to another. */
function signature(from: number, to: number): Uint8Array {
  const minhash = new Minhash();
  for (let value = from; value < to; value++) minhash.add(value);
  const bytes = new Uint8Array(modelSignatureParts.end);
  bytes.set(minhash.bytes(), modelSignatureParts.corners);
  return bytes;
}

function near(index: BandIndex, of: Uint8Array, most = 32): number[] {
  const found = new Set<number>();
  index.near(of, most, (item) => found.add(item));
  return [...found].sort((a, b) => a - b);
}

describe('BandIndex', () => {
  const each = 500;
  const signatures = Array.from({ length: 200 }, (_, at) => signature(at * 1000, at * 1000 + each));
  const index = new BandIndex('model', signatures);

  it('finds what shares nine tenths, of two hundred, and hardly anything else', () => {
    let strangers = 0;
    for (let at = 0; at < 200; at += 4) {
      const begin = at * 1000 + each / 20;
      const edited = signature(begin, begin + each);
      expect(
        sharedOf(edited, signatures[at] ?? new Uint8Array(0), modelSignatureParts.corners).share,
      ).to.be.above(0.6);
      const found = near(index, edited);
      expect(found, String(at)).to.include(at);
      strangers += found.length - 1;
    }
    expect(strangers).to.be.at.most(2);
  });

  it('gives so many of what very many share, and nothing for what holds nothing', () => {
    const same = new BandIndex(
      'model',
      signatures.map(() => signature(0, 10)),
    );
    expect(near(same, signature(0, 10), 5).length).to.be.at.most(5 * 16);
    expect(near(index, new Uint8Array(modelSignatureParts.end))).to.deep.equal([]);
    expect(near(new BandIndex('picture', signatures), signatures[0] ?? new Uint8Array(0))).to.deep.equal([]);
  });
});
