import { expect } from 'chai';
import { Lexicon } from './lexicon.ts';
import {
  channelsOfPacked,
  namedPictureOf,
  palettesOf,
  partsOfMaterial,
  spaceOfRole,
  textureSetsFor,
} from './texture-sets.ts';

const lexicon = new Lexicon();
const setsFor = (model: string, materials: readonly string[], paths: readonly string[]) =>
  textureSetsFor(
    model,
    materials,
    paths.map((path) => namedPictureOf(path, lexicon)),
    lexicon,
  );
const worn = (sets: ReturnType<typeof setsFor>) =>
  sets.map(({ material, roles }) => [
    material,
    Object.fromEntries(roles.map(({ role, choices }) => [role, choices.map(({ path }) => path)])),
  ]);

describe('Texture sets', () => {
  it('tell roles by name parts, and colour from linear data (common practice, no published source)', () => {
    const named = (path: string) => namedPictureOf(path, lexicon).role;
    expect(
      ['lum_col.png', 'lum_nrm.dds', 'lum_rgh.tga', 'lum_gloss.png', 'lum_orm.png', 'lum_msk.png'].map(named),
    ).to.deep.equal(['base colour', 'normal', 'roughness', 'gloss', 'packed channels', 'tint mask']);
    expect(spaceOfRole('base colour')).to.equal('sRGB');
    expect(spaceOfRole('emission')).to.equal('sRGB');
    for (const role of ['normal', 'roughness', 'gloss', 'metalness', 'occlusion', 'tint mask'] as const)
      expect(spaceOfRole(role), role).to.equal('linear');
    expect(namedPictureOf('lum.png', lexicon)).to.include({ role: 'base colour', isRoleSaid: false });
    // What stands first says what a thing is.
    expect(namedPictureOf('mask_wall.png', lexicon)).to.deep.include({
      isRoleSaid: false,
      of: ['mask', 'wall'],
    });
  });

  it('tell packed channels apart by the letters of their part; without any as glTF 2.0 has them (3.9)', () => {
    const text = (part: string) =>
      channelsOfPacked(part)
        .map(({ role, channel }) => `${channel} ${role}`)
        .join(', ');
    expect(text('orm')).to.equal('r occlusion, g roughness, b metalness');
    expect(text('mra')).to.equal('r metalness, g roughness, b occlusion');
    expect(text('packed')).to.equal('r occlusion, g roughness, b metalness');
  });

  it('are for one material alone what is named as the model, and for several what is named as they are', () => {
    expect(
      worn(
        setsFor(
          'm/lum_pier_l0.glb',
          ['Material.001'],
          ['t/lum_pier_col.png', 't/lum_pier_nrm.png', 't/lum_bow_col.png'],
        ),
      ),
    ).to.deep.equal([
      ['Material.001', { 'base colour': ['t/lum_pier_col.png'], normal: ['t/lum_pier_nrm.png'] }],
    ]);
    const boat = setsFor(
      'boats/gru_ferry.fbx',
      ['M_hull', 'sail'],
      [
        't/gru_ferry_hull_col.png',
        't/hull_nrm.png',
        't/sail_col.png',
        't/gru_ferry_col.png',
        't/wheel_col.png',
      ],
    );
    expect(worn(boat)).to.deep.equal([
      [
        'M_hull',
        { 'base colour': ['t/gru_ferry_hull_col.png', 't/gru_ferry_col.png'], normal: ['t/hull_nrm.png'] },
      ],
      ['sail', { 'base colour': ['t/sail_col.png', 't/gru_ferry_col.png', 't/gru_ferry_hull_col.png'] }],
    ]);
    const sure = boat.flatMap(({ roles }) =>
      roles.flatMap(({ choices }) =>
        choices.filter(({ isSure }) => isSure).map(({ path, why }) => `${path} ${why}`),
      ),
    );
    expect(sure).to.deep.equal([
      't/gru_ferry_hull_col.png named as the model with the material',
      't/hull_nrm.png named as the material',
      't/sail_col.png named as the material',
    ]);
  });

  it('take the plain palette, then the first one, and know which there are', () => {
    const paths = ['t/rag_p02_col.png', 't/rag_p01_col.png', 't/rag_col.png', 't/rag_p10_col.png'];
    const sets = setsFor('m/rag.glb', ['rag'], paths);
    expect(sets[0]?.roles[0]?.choices.map(({ path }) => path)).to.deep.equal([
      't/rag_col.png',
      't/rag_p01_col.png',
      't/rag_p02_col.png',
      't/rag_p10_col.png',
    ]);
    expect(palettesOf(sets)).to.deep.equal(['palette 1', 'palette 2', 'palette 10']);
    // A palette is one of base colours, whether or not its name says so.
    const boat = setsFor(
      'boats/fry_mail_l0.glb',
      ['hull', 'deck'],
      ['skins/fry_hull_p00.png', 'skins/fry_hull_p01.png'],
    );
    expect(palettesOf(boat)).to.deep.equal(['palette 0', 'palette 1']);
  });

  it('take a picture whose name says no role where it is named just so, and say that', () => {
    const [set] = setsFor('crate.obj', ['crate'], ['crate.png', 'crate_lid.png']);
    expect(
      set?.roles.map(({ role, choices }) => [role, choices.map(({ path, why }) => [path, why])]),
    ).to.deep.equal([['base colour', [['crate.png', 'named as the material; its name says no role']]]]);
  });

  it('read names of materials without what only says that they are such', () => {
    expect(partsOfMaterial('M_Hull', lexicon)).to.deep.equal(['hull']);
    expect(partsOfMaterial('hull_wood.png', lexicon)).to.deep.equal(['hull', 'wood']);
    expect(partsOfMaterial('hull_col.tga', lexicon)).to.deep.equal(['hull']);
    expect(partsOfMaterial('Material', lexicon)).to.deep.equal(['material']);
    expect(partsOfMaterial('', lexicon)).to.deep.equal([]);
  });

  it('have room for hundreds of materials and thousands of pictures', function () {
    this.timeout(10_000);
    const materials = Array.from({ length: 500 }, (_, at) => `deck_${at}x`);
    const sets = setsFor(
      'a.glb',
      materials,
      materials.flatMap((name) => [`${name}_col.png`, `${name}_nrm.png`]),
    );
    expect(sets).to.have.length(500);
    for (const { material, roles } of sets)
      expect(roles.map(({ choices }) => choices[0]?.path)).to.deep.equal([
        `${material}_col.png`,
        `${material}_nrm.png`,
      ]);
  });
});
