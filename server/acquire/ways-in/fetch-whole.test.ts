import { expect } from 'chai';
import { addressBeside, folderUrl, retrying, RefusedAddressError } from './fetch-whole.ts';

describe('Addresses that an answer names', () => {
  const base = new URL('http://depot.example:8080/games/builds.json');

  it('count from its own, and stay on its server', () => {
    expect(addressBeside(base, 'm/1.json')).to.equal('http://depot.example:8080/games/m/1.json');
    expect(addressBeside(base, '../1.json')).to.equal('http://depot.example:8080/1.json');
    expect(addressBeside(base, '/1.json?a=b')).to.equal('http://depot.example:8080/1.json?a=b');
    expect(addressBeside(folderUrl('http://a.example/x'), 'image')).to.equal('http://a.example/x/image');
  });

  it('are refused where they lead to another, however that is written', () => {
    for (const reference of [
      'http://depot.example:8080/games/1.json',
      'http://other.example/',
      'HTTPS://other.example/',
      ' http://other.example/',
      '//other.example/1.json',
      '/\\other.example/1.json',
      '\\\\other.example\\1.json',
      'file:///etc/passwd',
      'data:,x',
      'javascript:1',
    ])
      expect(() => addressBeside(base, reference), reference).to.throw(RefusedAddressError);
  });

  it('that were refused are not asked for again', async () => {
    let tries = 0;
    await retrying(new AbortController().signal, () => {
      tries++;
      return Promise.reject(new RefusedAddressError('no'));
    }).catch(() => undefined);
    expect(tries).to.equal(1);
  });
});
