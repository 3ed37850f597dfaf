import { expect } from 'chai';
import { basename, join } from 'node:path';
import { folderName } from './folder-name.ts';

describe('folderName', () => {
  it('is one part of a path, whatever the label', () => {
    for (const label of [
      '0.1',
      '..',
      '.',
      '...',
      '../..',
      'a/b',
      '/etc',
      'a\\b',
      'ü 1',
      'x'.repeat(120),
      '灯'.repeat(120),
    ]) {
      const name = folderName(label);
      expect(basename(join('/place', name)), label).to.equal(name);
      expect(join('/place', name), label).to.equal(`/place/${name}`);
      expect(Buffer.byteLength(name), label).to.be.below(256);
    }
  });

  it('differs where labels differ', () => {
    const labels = ['..', '%2E%2E', '.', '灯'.repeat(119) + 'a', '灯'.repeat(119) + 'b'];
    expect(new Set(labels.map(folderName)).size).to.equal(labels.length);
  });
});
