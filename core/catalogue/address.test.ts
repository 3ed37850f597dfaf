import slugify from '@sindresorhus/slugify';
import { expect } from 'chai';
import { addressOf, listAddress } from './address.ts';

describe('Addresses of entries', () => {
  it('are those that the package makes of names in any letters', () => {
    for (const name of [
      'Pier lantern',
      'Boathouse & pier',
      'lumPier_L0.glb',
      '  A  B ',
      "Heron's nest",
      'x--y',
      '100 % wet',
    ])
      expect(addressOf(7, name), name).to.equal(`7-${slugify(name)}`);
    expect(addressOf(7, 'Weißer Reiher')).to.equal('7-weisser-reiher');
    expect(addressOf(7, '灯')).to.match(/^7(-|$)/);
    expect(addressOf(7, '')).to.equal('7');
    expect(addressOf(7, '../../etc')).to.equal('7-etc');
    expect(addressOf(7, 'x'.repeat(500))).to.have.length(62);
  });

  it('of values are told apart where they look alike', () => {
    expect(listAddress('A b')).not.to.equal(listAddress('a B'));
    expect(listAddress('灯')).not.to.equal(listAddress('笼'));
    for (const value of ['..', 'a/b', '', 'con'])
      expect(listAddress(value), value).to.match(/^[a-z0-9-]+-[a-z0-9]+$/);
  });
});
