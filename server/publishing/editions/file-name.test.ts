import { expect } from 'chai';
import { fileName } from './file-name.ts';

describe('Names of published files', () => {
  it('are ones that every file system takes, whatever the asset is called', () => {
    for (const name of [
      '灯'.repeat(200) + '.png',
      'x'.repeat(400) + '.glb',
      '\u{1f3ee}'.repeat(120),
      'ü'.repeat(255),
    ]) {
      const made = fileName(name);
      expect(Buffer.byteLength(made), name.slice(0, 8)).to.be.at.most(180);
      // No half of a character is left.
      expect(Buffer.from(made, 'utf8').toString('utf8')).to.equal(made);
    }
    expect(fileName('a/b\\c:d?.png')).to.equal('a_b_c_d_.png');
    expect(fileName('..')).to.equal('_');
  });

  it('keep their extension where they are shortened', () => {
    expect(fileName('灯'.repeat(200) + '.png')).to.match(/灯\.png$/);
  });
});
