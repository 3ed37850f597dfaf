import { expect } from 'chai';
import { byFormatId, extensionOf, formatByExtension, formatOf, formatWithId, formats } from './formats.ts';

describe('The table of formats', () => {
  it('gives each format an id of its own that fits into the tables', () => {
    const ids = formats.map(({ id }) => id);
    expect(new Set(ids).size).to.equal(formats.length);
    expect(Math.min(...ids)).to.equal(1);
    expect(Math.max(...ids)).to.be.at.most(65_535);
  });

  it('never gives an id to another format: files of earlier days hold them', () => {
    // As they were when ids came in. A format that goes leaves its id unused; a new one takes the next.
    const first = {
      png: 1,
      svg: 13,
      glb: 14,
      bvh: 37,
      wav: 38,
      midi: 48,
      json: 53,
      ttf: 62,
      mp4: 64,
      zip: 66,
      binary: 80,
    };
    for (const [name, id] of Object.entries(first)) expect(formatOf(name).id, name).to.equal(id);
  });

  it('finds formats by name, by id and by extension', () => {
    expect(formatWithId(14).name).to.equal('glb');
    expect(formatWithId(60_000).name).to.equal('binary');
    expect(() => formatOf('nothing')).to.throw(RangeError, 'no format is named nothing');
    expect(formatByExtension('a/B.GLB')).to.equal('glb');
    expect(formatByExtension('a.b/c')).to.equal(null);
    expect(extensionOf('.hidden')).to.equal('');
    expect(extensionOf('a/b.tar.gz')).to.equal('gz');
    const names = byFormatId(({ name }) => name);
    for (const { id, name } of formats) expect(names[id]).to.equal(name);
    expect(names[0]).to.equal(undefined);
  });

  it('promises each extension to one format', () => {
    const extensions = formats.flatMap((format) => [...format.extensions]);
    expect(new Set(extensions).size).to.equal(extensions.length);
  });
});
