import { expect } from 'chai';
import { findPathClash } from './path-clash.ts';

describe('findPathClash', () => {
  it('lets files lie beside and below each other', () => {
    expect(findPathClash([])).to.equal(null);
    expect(findPathClash(['a', 'b/a', 'b/b/a', 'ab', 'A'])).to.equal(null);
  });

  it('tells two of one name, and a file that would have to be a folder, in either order', () => {
    expect(findPathClash(['x/a', 'b', 'x/a'])).to.equal('two files are named x/a');
    expect(findPathClash(['a', 'a/b/c'])).to.equal('a is a file, and a/b/c lies in it');
    expect(findPathClash(['a/b/c', 'a/b'])).to.equal('a/b is a file, and a/b/c lies in it');
  });
});
