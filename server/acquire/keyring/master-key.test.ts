import { expect } from 'chai';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MasterKey, loadMasterKey } from './master-key.ts';

/**
 * AES-256-GCM: test cases 13, 14 and 16 of "The Galois/Counter Mode of Operation (GCM)" by McGrew and Viega, which NIST
 * publishes with SP 800-38D. Written down from memory.
 */
const vectors = [
  {
    key: '0'.repeat(64),
    nonce: '0'.repeat(24),
    plain: '',
    about: '',
    sealed: '',
    tag: '530f8afbc74536b9a963b4f1c4cb738b',
  },
  {
    key: '0'.repeat(64),
    nonce: '0'.repeat(24),
    plain: '0'.repeat(32),
    about: '',
    sealed: 'cea7403d4d606b6e074ec5d3baf39d18',
    tag: 'd0d1c8a799996bf0265b98b5d48ab919',
  },
  {
    key: 'feffe9928665731c6d6a8f9467308308'.repeat(2),
    nonce: 'cafebabefacedbaddecaf888',
    plain:
      'd9313225f88406e5a55909c5aff5269a86a7a9531534f7da2e4c303d8a318a721c3c0c95956809532fcf0e2449a6b525b16aedf5aa0de657ba637b39',
    about: 'feedfacedeadbeeffeedfacedeadbeefabaddad2',
    sealed:
      '522dc1f099567d07f47f37a32a84427d643a8cdcbfe5c0c97598a2bd2555d1aa8cb08e48590dbb3da7b08b1056828838c5f61e6393ba7a0abcc9f662',
    tag: '76fc6ece0f4e1768cddf8853bb2d551b',
  },
];

describe('MasterKey', () => {
  const hex = (text: string): Buffer => Buffer.from(text, 'hex');

  for (const [index, { key, nonce, plain, about, sealed, tag }] of vectors.entries()) {
    it(`seals as published test case ${[13, 14, 16][index] ?? 0} says, and opens it`, () => {
      const master = new MasterKey(hex(key));
      const made = master.seal(hex(plain), hex(about), hex(nonce));
      expect(made.toString('hex')).to.equal(nonce + sealed + tag);
      expect(master.open(made, hex(about)).toString('hex')).to.equal(plain);
    });
  }

  it('opens nothing that was sealed for another title, by another key, or changed since', () => {
    const master = new MasterKey(Buffer.alloc(32, 1));
    const sealed = master.seal(Buffer.from('a key'), 'title 1');
    const turned = Buffer.from(sealed);
    turned[14] = (turned[14] ?? 0) ^ 1;
    expect(() => master.open(sealed, 'title 2')).to.throw('cannot be opened');
    expect(() => master.open(turned, 'title 1')).to.throw('cannot be opened');
    expect(() => new MasterKey(Buffer.alloc(32, 2)).open(sealed, 'title 1')).to.throw('cannot be opened');
    // The same key twice does not look the same.
    expect(master.seal(Buffer.from('a key'), 'title 1').equals(sealed)).to.equal(false);
    expect(master.mark(Buffer.from('a key'))).to.deep.equal(master.mark(Buffer.from('a key')));
  });

  it('is made once, in a file for its owner alone, or taken from the environment', () => {
    const folder = mkdtempSync(join(tmpdir(), 'worvel-test-'));
    try {
      const sealed = loadMasterKey(folder).seal(Buffer.from('x'), '');
      expect(statSync(join(folder, 'master.key')).mode & 0o777).to.equal(0o600);
      expect(loadMasterKey(folder).open(sealed, '').toString()).to.equal('x');
      process.env.WORVEL_MASTER_KEY = Buffer.alloc(32, 7).toString('base64');
      expect(() => loadMasterKey(folder).open(sealed, '')).to.throw('cannot be opened');
      process.env.WORVEL_MASTER_KEY = 'short';
      expect(() => loadMasterKey(folder)).to.throw('no key of 32 bytes');
      delete process.env.WORVEL_MASTER_KEY;
      writeFileSync(join(folder, 'master.key'), 'broken');
      expect(() => loadMasterKey(folder)).to.throw('holds no master key');
    } finally {
      delete process.env.WORVEL_MASTER_KEY;
      rmSync(folder, { recursive: true });
    }
  });
});
