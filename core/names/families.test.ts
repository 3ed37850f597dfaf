import { expect } from 'chai';
import { formatByExtension, formatOf } from '../kinds/formats.ts';
import { Families, type FamilyCorrection } from './families.ts';
import { areParallel, familyFolder } from './family-folder.ts';
import { Lexicon } from './lexicon.ts';

const lexicon = new Lexicon();

function gather(
  paths: readonly string[],
  links: readonly [from: string, to: string][] = [],
  corrections: readonly FamilyCorrection[] = [],
): { families: Families; of: (path: string) => string[] } {
  const assets = {
    count: paths.length,
    pathOf: (place: number) => paths[place] ?? '',
    kindOf: (place: number) => formatOf(formatByExtension(paths[place] ?? '') ?? 'binary').kind,
  };
  const at = (path: string): number => paths.indexOf(path);
  const families = new Families(
    assets,
    lexicon,
    links.map(([from, to]) => ({ from: at(from), to: at(to) })),
    corrections,
  );
  return {
    families,
    of: (path) =>
      Array.from(families.membersOf(families.familyOf(at(path))), (member) => paths[member] ?? ''),
  };
}

describe('families', () => {
  it('gather levels, colours and texture roles by name, and trees that are parallel by folder', () => {
    const { of, families } = gather([
      'data/m.zip!/models/lamps/lum_pier_l0.glb',
      'data/m.zip!/models/lamps/lum_pier_l1.glb',
      'textures/lamps/lum_pier_col.png',
      'textures/lamps/lum_pier_nrm.dds',
      'models/lamps/lum_bow_l0.glb',
    ]);
    expect(of('textures/lamps/lum_pier_nrm.dds')).to.have.length(4);
    expect(of('models/lamps/lum_bow_l0.glb')).to.have.length(1);
    expect(families.reasonsFor(2).join()).to.include('“lum_pier”');
  });

  it('do not take one name for one thing where it stands everywhere', () => {
    const paths = ['a', 'b', 'c', 'd', 'e', 'f'].map((folder) => `models/${folder}/body.glb`);
    const { of } = gather([...paths, 'body.png']);
    for (const path of paths) expect(of(path)).to.deep.equal([path]);
  });

  it('keep two models of one name in two folders apart', () => {
    const { of } = gather(['props/lum_l0.glb', 'market/lum_l0.glb']);
    expect(of('props/lum_l0.glb')).to.deep.equal(['props/lum_l0.glb']);
  });

  it('take in what only they name, and not what others name too', () => {
    const { of } = gather(
      ['a/boat.glb', 'b/cart.glb', 'own/wood7.png', 'shared/rust.png', 'defs/item_3.ini', 'maps/m.json'],
      [
        ['a/boat.glb', 'own/wood7.png'],
        ['a/boat.glb', 'shared/rust.png'],
        ['b/cart.glb', 'shared/rust.png'],
        ['defs/item_3.ini', 'b/cart.glb'],
        ['maps/m.json', 'own/wood7.png'],
      ],
    );
    expect(of('a/boat.glb')).to.deep.equal(['a/boat.glb', 'own/wood7.png']);
    expect(of('shared/rust.png')).to.deep.equal(['shared/rust.png']);
    expect(of('b/cart.glb')).to.deep.equal(['b/cart.glb', 'defs/item_3.ini']);
  });

  it('take in clips and sounds whose names begin with theirs, in a folder beside', () => {
    const { of, families } = gather([
      'models/birds/gru.glb',
      'clips/birds/gru_walk.bvh',
      'sounds/birds/gru_call.ogg',
      'sounds/steps/gru_step.ogg',
    ]);
    expect(of('models/birds/gru.glb')).to.deep.equal([
      'models/birds/gru.glb',
      'clips/birds/gru_walk.bvh',
      'sounds/birds/gru_call.ogg',
    ]);
    expect(families.reasonsFor(1).join()).to.include('begins with “gru”');
  });

  it('keep a first part that says what a thing is, even where it reads like a texture role', () => {
    const { of } = gather(['props/mask_wall.glb', 'props/wall.glb', 'lamp/col.png', 'lamp/nrm.png']);
    expect(of('props/mask_wall.glb')).to.deep.equal(['props/mask_wall.glb']);
    expect(of('lamp/col.png')).to.deep.equal(['lamp/col.png', 'lamp/nrm.png']);
  });

  it('are put right by a person', () => {
    const paths = ['a/lum_l0.glb', 'a/lum_l1.glb', 'b/other.png'];
    const { of, families } = gather(
      paths,
      [],
      [
        { asset: 1, with: null },
        { asset: 2, with: 0 },
      ],
    );
    expect(of('a/lum_l0.glb')).to.deep.equal(['a/lum_l0.glb', 'b/other.png']);
    expect(of('a/lum_l1.glb')).to.deep.equal(['a/lum_l1.glb']);
    expect(families.reasonsFor(2)).to.deep.equal(['a person put it to a/lum_l0.glb']);
  });

  it('see folders without containers, kinds and languages', () => {
    expect(familyFolder('data/x.zip!/Models/lamps/a.glb')).to.equal('lamps');
    expect(familyFolder('text/de/a.json')).to.equal('');
    expect(areParallel('props/lum', 'lum')).to.equal(true);
    expect(areParallel('props/lum', 'um')).to.equal(false);
  });
});
