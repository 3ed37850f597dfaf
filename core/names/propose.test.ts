import { expect } from 'chai';
import { Lexicon } from './lexicon.ts';
import { PartCensus, type NamedAsset } from './propose.ts';
import { formatByExtension, formatOf } from '../kinds/formats.ts';

function census(
  paths: readonly (string | [path: string, triangles: number])[],
  lexicon = new Lexicon(),
): PartCensus {
  const made = new PartCensus(lexicon);
  const assets = paths
    .map((given): NamedAsset => {
      const [path, triangles] = typeof given === 'string' ? [given, NaN] : given;
      return {
        path,
        triangles,
        kind: formatOf(formatByExtension(path) ?? 'binary').kind,
        first: 1,
        isThere: true,
      };
    })
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  for (const asset of assets) made.add(asset);
  return made;
}

describe('proposals for the lexicon', () => {
  it('take a counter for levels of detail where triangles fall with it, and not where they rise', () => {
    const falling = census(
      ['a', 'b'].flatMap((name) =>
        [900, 300, 80].map((triangles, level): [string, number] => [`${name}_v${level}.glb`, triangles]),
      ),
    ).proposals([]);
    expect(falling[0]).to.include({ part: 'v#', role: 'LOD' });
    expect(falling[0]?.evidence).to.include('from v0 to v2').and.to.include('2 of 2');
    const rising = census([
      ['a_v0.glb', 10],
      ['a_v1.glb', 20],
    ]).proposals([]);
    expect(rising.map(({ role }) => role)).not.to.include('LOD');
  });

  it('take what stands in one another’s place for texture roles and languages', () => {
    const proposals = census([
      ...['wall', 'door'].flatMap((name) => ['col', 'nrm', 'zzz'].map((role) => `t/${name}_${role}.png`)),
      'say/en/a.json',
      'say/de/a.json',
    ]).proposals([]);
    const found = new Map(proposals.map(({ part, role, meaning }) => [part, [role, meaning]]));
    expect(found.get('nrm')).to.deep.equal(['texture role', 'normal']);
    expect(found.get('zzz')).to.deep.equal(['texture role', '']);
    expect(found.get('de')).to.deep.equal(['language', 'German']);
  });

  it('name short parts that go through folders and kinds, and nothing that is known or refused', () => {
    const paths = ['m/gru_a.glb', 's/gru_b.ogg', 'm/gru_c.glb', 't/gru_d.png', 'x/once.png'];
    const [first] = census(paths).proposals([]);
    expect(first).to.include({ part: 'gru', role: 'belongs to', assets: 4 });
    expect(first?.evidence).to.equal('stands in 4 names in 3 folders: 2 models, 1 sound, 1 picture');
    expect(census(paths).proposals(['gru'])).to.deep.equal([]);
    const known = new Lexicon([
      { part: 'gru', role: 'code name', meaning: 'heron', saidBy: 'a', sinceBuild: '' },
    ]);
    expect(census(paths, known).proposals([])).to.deep.equal([]);
  });

  it('tell parts that no build before had', () => {
    const made = new PartCensus(new Lexicon());
    const add = (path: string, first: number, isThere = true): void =>
      made.add({ path, kind: 'model', triangles: NaN, first, isThere });
    add('gru_grey.glb', 1);
    add('gru_old.glb', 1, false);
    add('gru_white.glb', 2);
    add('x/old_white.glb', 2);
    expect(made.freshParts(2).map(({ part, assets }) => [part, assets])).to.deep.equal([['white', 2]]);
  });
});
