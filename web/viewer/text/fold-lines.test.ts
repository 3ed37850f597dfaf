import { Text } from '@codemirror/state';
import { expect } from 'chai';
import { foldedFrom } from './fold-lines.ts';

const folded = (number: number, ...lines: string[]): string | null => {
  const text = Text.of(lines);
  const range = foldedFrom(text, number);
  return range && text.sliceString(range.from, range.to);
};

describe('Folding of lines', () => {
  it('goes by sections of settings, without the empty lines behind', () => {
    const lines = ['[boat]', 'mast = 2', '', 'sail = 1', '', '[bird]', 'wing = 2'];
    expect(folded(1, ...lines)).to.equal('\nmast = 2\n\nsail = 1');
    expect(folded(6, ...lines)).to.equal('\nwing = 2');
    expect(folded(2, ...lines)).to.equal(null);
  });

  it('goes by what stands further in, tabs as four', () => {
    const lines = ['if tide then', '    rise()', '\tfall()', 'end', '', '  x'];
    expect(folded(1, ...lines)).to.equal('\n    rise()\n\tfall()');
    expect(folded(2, ...lines)).to.equal(null);
    expect(folded(4, ...lines)).to.equal('\n\n  x');
    expect(folded(5, ...lines)).to.equal(null);
  });
});
