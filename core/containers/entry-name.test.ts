import { expect } from 'chai';
import { checkEntryName, linkStaysInside, unusedName } from './entry-name.ts';

describe('checkEntryName', () => {
  it('keeps ordinary names and evens out separators', () => {
    expect(checkEntryName('lamps/lamp.glb')).to.deep.equal({ path: 'lamps/lamp.glb', refused: null });
    expect(checkEntryName('lamps\\.\\\\lamp.glb').path).to.equal('lamps/lamp.glb');
    expect(checkEntryName('a..b/..c').refused).to.equal(null);
  });

  for (const name of [
    '../evil',
    'a/../../evil',
    'a\\..\\evil',
    '/etc/evil',
    '\\evil',
    'C:\\evil',
    'c:evil',
    'a\0b',
    '',
    './',
  ]) {
    it(`refuses ${JSON.stringify(name)} with a reason`, () => {
      expect(checkEntryName(name).refused).to.be.a('string').and.not.equal('');
    });
  }
});

describe('linkStaysInside', () => {
  it('counts folders up and down from the link', () => {
    expect(linkStaysInside('a/b/link', '../c')).to.equal(true);
    expect(linkStaysInside('a/b/link', '../../c')).to.equal(true);
    expect(linkStaysInside('a/b/link', '../../../c')).to.equal(false);
    expect(linkStaysInside('link', 'a/../../c')).to.equal(false);
    expect(linkStaysInside('link', '/etc/passwd')).to.equal(false);
  });
});

describe('unusedName', () => {
  it('counts up before the extension', () => {
    expect(unusedName('a.b/lamp.glb', new Set(['a.b/lamp.glb']))).to.equal('a.b/lamp (2).glb');
    expect(unusedName('lamp', new Set(['lamp', 'lamp (2)']))).to.equal('lamp (3)');
  });
});
