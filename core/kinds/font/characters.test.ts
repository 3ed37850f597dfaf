import { expect } from 'chai';
import {
  characterAt,
  codeText,
  hasCharacter,
  lackingIn,
  placeOfCharacter,
  runsOf,
  typedCharacter,
} from './characters.ts';

describe('Characters of a font', () => {
  const font = runsOf([67, 65, 66, 65, 233, 0x1f600, -1, 1.5, 0x110000]);

  it('are runs in order, each once, without what is no code point', () => {
    expect(font).to.deep.equal({
      runs: [
        [65, 67],
        [233, 233],
        [0x1f600, 0x1f600],
      ],
      total: 5,
    });
    expect(runsOf([])).to.deep.equal({ runs: [], total: 0 });
  });

  it('are there or not', () => {
    expect([64, 65, 67, 68, 233, 0x1f600, 0x1f601].map((code) => hasCharacter(font, code))).to.deep.equal([
      ...[false, true, true, false, true, true, false],
    ]);
    expect(lackingIn(font, 'A B\nÄé😀😁Ä')).to.deep.equal(['Ä', '😁']);
  });

  it('have places, and are found by themselves or by their code', () => {
    expect([0, 2, 3, 4, 5].map((place) => characterAt(font, place))).to.deep.equal([
      65, 67, 233, 0x1f600, -1,
    ]);
    expect([65, 68, 233, 0x1f601].map((code) => placeOfCharacter(font, code))).to.deep.equal([0, 3, 3, -1]);
    expect(['é', 'U+00E9', '0xe9', '\\u00e9', '00E9', '😀'].map(typedCharacter)).to.deep.equal([
      ...[233, 233, 233, 233, 233, 0x1f600],
    ]);
    expect(['', 'hello', 'U+', '110000'].map(typedCharacter)).to.deep.equal([-1, -1, -1, -1]);
    expect(codeText(233)).to.equal('U+00E9');
  });
});
