import { expect } from 'chai';
import { openSheet } from '../../../core/formats/open-sheet.ts';
import { newSheet, sheetHead } from './new-sheet.ts';
import { sisterAddress } from './sister-address.ts';
import { valuesAt } from './byte-values.ts';

describe('A sheet that is begun', () => {
  it('can be used at once, is for files like the one that is open, and has a name of its own', () => {
    const text = newSheet('data/props.zip!/lamp.lmod', ['Format of .lmod']);
    expect(openSheet(text)).to.have.property('sheet');
    expect(sheetHead(text)).to.deep.equal({ name: 'Format of .lmod 2', patterns: ['*.lmod'] });
    expect(openSheet(newSheet('data/README', []))).to.have.property('sheet');
  });

  it('says its name and its files also while it cannot be used', () => {
    expect(sheetHead('sheet: "A b"\nfiles: ["*.a", \'*.b\']\nroot: {')).to.deep.equal({
      ...{ name: 'A b', patterns: ['*.a', '*.b'] },
    });
    expect(sheetHead('sheet: A\nfiles:\n  - a/*.x\n  - "*.y"\nroot:\n').patterns).to.deep.equal([
      'a/*.x',
      '*.y',
    ]);
    expect(sheetHead('')).to.deep.equal({ name: '', patterns: [] });
  });
});

describe('A file in the workshop', () => {
  it('has other files beside it', () => {
    const address = '/api/files/3/0.3/data/packs/a%20b.pack';
    expect(sisterAddress(address, 'a b.names')).to.equal('/api/files/3/0.3/data/packs/a%20b.names');
    expect(sisterAddress(address, '../../x#.bin')).to.equal('/api/files/3/0.3/x%23.bin');
  });

  it('has numbers in its bytes, in both orders', () => {
    expect(valuesAt(Uint8Array.from([0, 0, 128, 63]), 0)).to.equal(
      'u8 0 · u16 0 · u32 1,065,353,216 / 32,831 · f32 1 / 4.6006e-41',
    );
    expect(valuesAt(Uint8Array.from([7, 7]), 1)).to.equal('u8 7');
  });
});
