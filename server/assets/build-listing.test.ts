import { expect } from 'chai';
import { BuildListing } from './build-listing.ts';

const asset = (path: string, size = 10) => ({ path, format: 'binary', size, hash: 'h' });
const listing = new BuildListing(
  [
    'a/one.glb', 'a/two.glb', 'b.zip!/c/three.glb', 'b.zip!/d.zip!/four.glb', 'b.zip!/five.glb', 'bang!/six.glb', 'root.txt',
  ].sort().map((path, index) => asset(path, 10 + index)),
  new Set(['b.zip', 'b.zip!/d.zip']),
); // prettier-ignore

describe('BuildListing', () => {
  it('lists folders and archives with what is below them, and the assets beside them', () => {
    const { folders, assets } = listing.folder('');
    expect(folders.map(({ name, files, isContainer }) => `${name} ${files} ${isContainer}`)).to.deep.equal([
      'a 2 false',
      'b.zip 3 true',
      'bang! 1 false',
    ]);
    expect(assets.map(({ path }) => path)).to.deep.equal(['root.txt']);
    expect(folders[0]?.bytes).to.equal(21);
  });

  it('goes into archives, and into archives in archives', () => {
    const inside = listing.folder('b.zip');
    expect(inside.folders.map(({ path, isContainer }) => `${path} ${isContainer}`)).to.deep.equal([
      'b.zip!/c false',
      'b.zip!/d.zip true',
    ]);
    expect(inside.assets.map(({ path }) => path)).to.deep.equal(['b.zip!/five.glb']);
    expect(listing.folder('b.zip!/d.zip').assets.map(({ path }) => path)).to.deep.equal([
      'b.zip!/d.zip!/four.glb',
    ]);
    expect(listing.folder('nowhere')).to.deep.include({ folders: [], assets: [] });
  });

  it('finds what a definition means: as written, with an extension, beside it, or by the end of a path', () => {
    const meant = (reference: string, from = 'maps/x.json') =>
      listing.resolve(reference, from, ['glb', 'gltf'])?.path ?? null;
    expect(meant('a/one.glb')).to.equal('a/one.glb');
    expect(meant('a/one')).to.equal('a/one.glb');
    expect(meant('.\\a\\two')).to.equal('a/two.glb');
    expect(meant('three', 'b.zip!/c/map.json')).to.equal('b.zip!/c/three.glb');
    expect(meant('four')).to.equal('b.zip!/d.zip!/four.glb');
    expect(meant('seven')).to.equal(null);
  });
});
