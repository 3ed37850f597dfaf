import { expect } from 'chai';
import type { Kind } from '../../contract/kinds.ts';
import type { LexiconEntry, NameRole } from '../../contract/names.ts';
import { colourSpaceOf, commonParts } from './common-parts.ts';
import { faceOf, finestOf, memberPartOf, nameWithoutLevel } from './family-members.ts';
import { Lexicon } from './lexicon.ts';
import { LexiconFileError, lexiconToCsv, lexiconToJson, readLexicon } from './lexicon-file.ts';
import { numberIn, patternOf, splitName, stemOf, usualRules } from './split.ts';

const entry = (part: string, role: NameRole, meaning: string): LexiconEntry => ({
  part,
  role,
  meaning,
  saidBy: 'a',
  sinceBuild: '1',
});

describe('splitting names', () => {
  it('parts at separators, at capitals after small letters, and at the last of a run of capitals', () => {
    expect(splitName('HeronWing_upper-l0')).to.deep.equal(['heron', 'wing', 'upper', 'l0']);
    expect(splitName('HUDLamp2x')).to.deep.equal(['hud', 'lamp2x']);
    expect(splitName('a__b..c')).to.deep.equal(['a', 'b', 'c']);
    expect(splitName('ÄrgerÖl_ß')).to.deep.equal(['ärger', 'öl', 'ß']);
    expect(splitName('')).to.deep.equal([]);
  });

  it('follows the rules of a title', () => {
    expect(splitName('heron03_l0', { ...usualRules, digitsApart: true })).to.deep.equal([
      'heron',
      '03',
      'l',
      '0',
    ]);
    expect(splitName('HeronWing', { ...usualRules, camelCase: false })).to.deep.equal(['heronwing']);
    expect(splitName('a_b~c', { ...usualRules, separators: '~' })).to.deep.equal(['a_b', 'c']);
  });

  it('takes extensions off, and no versions', () => {
    expect(stemOf('a/b.c/lamp_col.tga')).to.equal('lamp_col');
    expect(stemOf('gate_v1.25')).to.equal('gate_v1.25');
    expect(stemOf('.hidden')).to.equal('.hidden');
  });

  it('knows counters', () => {
    expect(patternOf('l12x3')).to.equal('l#x#');
    expect(numberIn('p07')).to.equal(7);
    expect(numberIn('l1x2')).to.equal(null);
  });
});

describe('the lexicon', () => {
  const lexicon = new Lexicon(
    [
      entry('gru', 'code name', 'heron'),
      entry('gru_white', 'code name', 'white heron'),
      entry('col', 'belongs to', 'the colonel'),
      entry('k#', 'players', 'for # players'),
    ],
    usualRules,
    ['spec'],
  );

  it('reads the longest part first, the title’s own before common practice, and numbers', () => {
    expect(
      lexicon.readPath('x/gru_white_k2_l1.glb').map(({ part, meaning }) => [part, meaning]),
    ).to.deep.equal([
      ['gru_white', 'white heron'],
      ['k2', 'for 2 players'],
      ['l1', 'level of detail 1'],
    ]);
    expect(lexicon.readPath('Col_spec.png').map(({ role }) => role)).to.deep.equal(['belongs to', null]);
    expect(new Lexicon().readPath('lamp_nrm.png')[1]).to.include({
      meaning: 'normal',
      saidBy: 'common practice',
    });
  });

  it('finds parts by words of their meaning, from the beginning of a word', () => {
    expect(lexicon.partsMeaning('heron').map(({ part }) => part)).to.deep.equal(['gru', 'gru_white']);
    expect(lexicon.partsMeaning('her')).to.have.length(2);
    expect(lexicon.partsMeaning('eron')).to.deep.equal([]);
    expect(lexicon.partsMeaning('normal')).to.deep.equal([]);
  });

  it('finds parts by role and value', () => {
    expect(lexicon.partsOfRole('LOD', '0')).to.include.members(['l0', 'l00', 'lod0']);
    expect(lexicon.partsOfRole('texture role', 'normal')).to.include('nrm');
    expect(lexicon.partsOfRole('players', '2')).to.include('k2');
    expect(lexicon.partsOfRole('texture role', 'nothing')).to.deep.equal([]);
  });

  it('goes out as CSV and as JSON, and comes back the same', () => {
    const entries = [entry('a"b', 'view', 'says "one", two\nlines'), entry('l#', 'LOD', 'level #')];
    expect(readLexicon(lexiconToCsv(entries))).to.deep.equal(entries);
    expect(readLexicon(lexiconToJson(entries))).to.deep.equal(entries);
    expect(readLexicon('\ufeffpart;role;meaning\r\nGRU;code name;heron\r\n')[0]).to.include({
      part: 'gru',
      meaning: 'heron',
      saidBy: '',
    });
  });

  it('says which line of a file does not fit', () => {
    const fails = (text: string, message: RegExp): void => {
      expect(() => readLexicon(text)).to.throw(LexiconFileError, message);
    };
    fails('part,role,meaning\na,code name,x\nb,colour,y\n', /^line 3: role/);
    fails('part,meaning\na,b\n', /line 1: a column “role”/);
    fails('[{"part":"a","role":"LOD"}]', /^entry 1: meaning/);
    fails('{"part":1}', /array/);
    fails('[', /not valid JSON/);
  });
});

describe('members of a family', () => {
  const lexicon = new Lexicon();

  it('have levels, of which 0 or none is the finest (common practice)', () => {
    const members = ['lamp_l2.glb', 'lamp.glb', 'lamp_l1.glb'].map((path, at) => ({
      kind: 'model' as const,
      triangles: [10, 300, 100][at] ?? 0,
      part: memberPartOf(path, 'model', lexicon),
    }));
    expect(members.map(({ part }) => part.level)).to.deep.equal([2, 0, 1]);
    expect(finestOf(members)?.triangles).to.equal(300);
    expect(finestOf([])).to.equal(null);
  });

  it('has the finest model for its face, else what its surface looks like', () => {
    const member = (path: string, kind: Kind, hasPreview = true) => ({
      ...{ path, kind, hasPreview, triangles: NaN, part: memberPartOf(path, kind, lexicon) },
    });
    const pictures = ['tin_ao.jpg', 'tin_col.jpg', 'tin_hgt.png'].map((path) => member(path, 'picture'));
    expect(faceOf(pictures)?.path).to.equal('tin_col.jpg');
    expect(faceOf([...pictures, member('tin.glb', 'model')])?.path).to.equal('tin.glb');
    expect(faceOf([member('tin_ao.jpg', 'picture'), member('tin.png', 'picture')])?.path).to.equal('tin.png');
    expect(faceOf([member('a.txt', 'text', false), member('tin_ao.jpg', 'picture')])?.path).to.equal(
      'tin_ao.jpg',
    );
    expect(faceOf([member('a.txt', 'text', false)])?.path).to.equal('a.txt');
    expect(faceOf([])).to.equal(null);
  });

  it('have texture roles: normal, gloss, roughness and masks are linear, base colour and emission sRGB (common practice)', () => {
    const space = (path: string) => memberPartOf(path, 'picture', lexicon).colourSpace;
    expect(['a_nrm.png', 'a_gloss.png', 'a_rgh.png', 'a_mask.png'].map(space)).to.deep.equal(
      Array(4).fill('linear'),
    );
    expect(['a_col.png', 'a_emi.png'].map(space)).to.deep.equal(['sRGB', 'sRGB']);
    expect(colourSpaceOf('packed channels')).to.equal('linear');
    expect(memberPartOf('a_1p.png', 'picture', lexicon).variants).to.deep.equal(['first person']);
  });

  it('are named without their level', () => {
    expect(nameWithoutLevel('x/Lum_Pier_l0.glb', lexicon)).to.equal('lum_pier');
    expect(nameWithoutLevel('x/lum_LOD2_a.glb', lexicon)).to.equal('lum_a');
    expect(nameWithoutLevel('x/lum_pier.glb', lexicon)).to.equal('');
    expect(nameWithoutLevel('x/lum_l0.png', lexicon)).to.equal('');
  });

  it('are told by parts of which each is common practice once', () => {
    const parts = commonParts.map(({ part }) => part);
    expect(new Set(parts).size).to.equal(parts.length);
  });
});
