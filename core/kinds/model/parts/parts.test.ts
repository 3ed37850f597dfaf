import { expect } from 'chai';
import * as THREE from 'three';
import { boneOddities } from './bone-oddities.ts';
import { isClosed } from './closed.ts';
import { texelDensity, triangleDensity } from './density.ts';
import { helperShapes, nameParts, type PartOfModel } from './helper-shapes.ts';

const part = (name: string, more: Partial<PartOfModel> = {}): PartOfModel => ({
  ...{
    name,
    above: [],
    material: 'Wood',
    hasUvs: true,
    hasTexture: true,
    isClosed: () => false,
    triangles: 12,
  },
  ...more,
});
const kindsOf = (parts: readonly PartOfModel[]) => helperShapes(parts).map((helper) => helper?.kind ?? null);

describe('Helper shapes', () => {
  it('are told by name parts, of the part, of what it hangs on, or of its material', () => {
    expect(nameParts('UCX_boatHull.001')).to.deep.equal(['ucx', 'boat', 'hull']);
    expect(
      kindsOf([
        part('deck'),
        part('UCX_deck'),
        part('deckShadow'),
        part('box', { above: ['ferry', 'Colliders'] }),
        part('sail_occ'),
        part('deck_reflection'),
        part('lamp', { above: ['locators'] }),
        part('plate', { material: 'mat_collision' }),
      ]),
    ).to.deep.equal([
      ...[null, 'collision', 'shadow', 'collision', 'occlusion', 'reflection', 'locator', 'collision'],
    ]);
    expect(helperShapes([part('deck'), part('plate', { material: 'mat_collision' })])[1]?.reason).to.equal(
      'its material “mat_collision” has “collision”',
    );
  });

  it('are not things whose names have such a word by itself or within another word', () => {
    expect(
      kindsOf([
        part('col'),
        part('loc'),
        part('column'),
        part('locket'),
        part('boat_hull'),
        part('col_blue_a'),
      ]),
    ).to.deep.equal([null, null, null, null, null, 'collision']);
    expect(kindsOf([part('deck'), part('boat_col_planks'), part('deck_col')])).to.deep.equal([
      ...[null, null, 'collision'],
    ]);
  });

  it('are never all that a model has', () => {
    expect(kindsOf([part('UCX_a'), part('UCX_b')])).to.deep.equal([null, null]);
  });

  it('are plain closed shapes beside ones with UVs and textures', () => {
    const plain = { hasUvs: false, hasTexture: false, isClosed: () => true };
    expect(kindsOf([part('a'), part('b'), part('c'), part('box', plain)])).to.deep.equal([
      ...[null, null, null, 'collision'],
    ]);
    // Where nothing has textures, or half has none, it is how the game makes its models.
    expect(kindsOf([part('a', plain), part('b', plain)])).to.deep.equal([null, null]);
    expect(kindsOf([part('a'), part('b', plain), part('c', plain)])).to.deep.equal([null, null, null]);
  });

  it('are not looked for in large shapes, nor where names tell already', () => {
    const unasked = { hasUvs: false, hasTexture: false, isClosed: () => expect.fail('was looked through') };
    expect(
      kindsOf([
        ...['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'].map((name) => part(name)),
        part('hull', { ...unasked, triangles: 1_000_000 }),
        part('UCX_hull', unasked),
      ]).slice(-2),
    ).to.deep.equal([null, 'collision']);
  });
});

describe('A closed shape', () => {
  const closed = (geometry: THREE.BufferGeometry): boolean =>
    isClosed(geometry.getAttribute('position').array, geometry.getIndex()?.array ?? null);

  it('is a box, a ball and a ring, with and without indices, and with seams', () => {
    for (const geometry of [
      new THREE.BoxGeometry(1, 2, 3, 2, 2, 2),
      new THREE.IcosahedronGeometry(1, 2),
      new THREE.TetrahedronGeometry(),
      new THREE.BoxGeometry().toNonIndexed(),
    ])
      expect(closed(geometry), geometry.type).to.equal(true);
  });

  it('is not a plane, an open pipe, or a box that lacks a triangle', () => {
    const box = new THREE.BoxGeometry();
    const indices = [...(box.getIndex()?.array ?? [])].slice(3);
    expect(isClosed(box.getAttribute('position').array, indices)).to.equal(false);
    expect(closed(new THREE.PlaneGeometry(1, 1, 4, 4))).to.equal(false);
    expect(closed(new THREE.CylinderGeometry(1, 1, 1, 8, 1, true))).to.equal(false);
    expect(isClosed([], null)).to.equal(false);
  });
});

describe('Odd bones', () => {
  const told = (bones: readonly (readonly [string, number])[]) =>
    boneOddities(bones.map(([name, parent]) => ({ name, parent }))).map(
      ({ bone, kind }) => `${bones[bone]?.[0] ?? ''}: ${kind}`,
    );

  it('are further roots, doubles with a number behind the name, and ones that stand alone', () => {
    expect(
      told([
        ['hips', -1],
        ['spine', 0],
        ['hand_l', 1],
        ['hand_l.001', 1],
        ['hips.001', -1],
        ['leg', 4],
        ['eye', -1],
      ]),
    ).to.deep.equal(['hand_l.001: double', 'hips.001: root', 'hips.001: double', 'eye: alone']);
  });

  it('are not fingers and ribs that are counted', () => {
    expect(
      told([
        ['root', -1],
        ['rib', 0],
        ['rib_01', 0],
        ['finger1', 0],
        ['finger2', 0],
        ['tail.001', 0],
      ]),
    ).to.deep.equal([]);
  });

  it('are found in chains as long as a file can have', () => {
    const chain = Array.from({ length: 60_000 }, (_, at) => ({ name: `b${at}x`, parent: at - 1 }));
    expect(boneOddities(chain)).to.deep.equal([]);
  });
});

describe('Density', () => {
  // A square of two metres, of two triangles of two square metres each, with half of a picture on it.
  const square = {
    positions: [0, 0, 0, 2, 0, 0, 2, 2, 0, 0, 2, 0],
    uvs: [0, 0, 1, 0, 1, 0.5, 0, 0.5],
    indices: [0, 1, 2, 0, 2, 3],
  };

  it('of triangles is how many a square metre has', () => {
    expect([...triangleDensity(square)]).to.deep.equal([0.5, 0.5, 0.5, 0.5]);
    expect([...triangleDensity({ ...square, indices: [0, 0, 1] })]).to.deep.equal([0, 0, 0, 0]);
  });

  it('of a texture is how many texels lie along a metre', () => {
    // 512 x 512 texels on four square metres, by half of 1024 x 512.
    const density = texelDensity(square, 1024, 512);
    for (const value of density) expect(value).to.be.closeTo(Math.sqrt((1024 * 256) / 4), 1e-3);
    expect([...texelDensity({ ...square, uvs: null }, 1024, 512)]).to.deep.equal([0, 0, 0, 0]);
  });
});
