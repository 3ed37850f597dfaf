import { expect } from 'chai';
import {
  Bone,
  BoxGeometry,
  BufferAttribute,
  Group,
  Mesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
  Skeleton,
  SkinnedMesh,
  SRGBColorSpace,
  Texture,
} from 'three';
import { partsOf } from './model-parts.ts';
import { possibleWays, WaysOfSeeing } from './ways-of-seeing.ts';

const textured = (): Mesh => {
  const map = new Texture({ width: 64, height: 64 } as HTMLImageElement);
  map.colorSpace = SRGBColorSpace;
  const material = new MeshStandardMaterial({ map, roughnessMap: new Texture(), name: 'Wood' });
  return new Mesh(new BoxGeometry(1, 1, 1), material);
};

function skinned(): SkinnedMesh {
  const geometry = new BoxGeometry(1, 1, 1);
  const count = geometry.getAttribute('position').count;
  const [joints, weights] = [new Uint16Array(count * 4), new Float32Array(count * 4)];
  for (let at = 0; at < count; at++) {
    joints.set([0, 1, 0, 0], at * 4);
    weights.set([0.75, 0.25, 0, 0], at * 4);
  }
  geometry.setAttribute('skinIndex', new BufferAttribute(joints, 4));
  geometry.setAttribute('skinWeight', new BufferAttribute(weights, 4));
  const bones = ['hips', 'hand.l'].map((name) => {
    const bone = new Bone();
    // As the library does with what its own paths have no room for.
    bone.name = name.replace('.', '');
    bone.userData.name = name;
    return bone;
  });
  const mesh = new SkinnedMesh(geometry, new MeshStandardMaterial());
  for (const bone of bones) mesh.add(bone);
  mesh.bind(new Skeleton(bones));
  return mesh;
}

describe('Ways of seeing', () => {
  it('are those that have something to show', () => {
    const plain = new Mesh(new BoxGeometry().deleteAttribute('uv'), new MeshStandardMaterial());
    expect(possibleWays([plain])).to.deep.equal(['textured', 'grey', 'normals', 'triangles']);
    expect(possibleWays([textured()])).to.deep.equal([
      ...['textured', 'grey', 'normals', 'checker', 'base-colour', 'roughness', 'triangles', 'texels'],
    ]);
    expect(possibleWays([skinned()])).to.include('weights');
  });

  it('give back what they took', () => {
    const mesh = textured();
    const { material, geometry } = mesh;
    const ways = new WaysOfSeeing();
    for (const way of possibleWays([mesh])) {
      ways.show([mesh], way, null);
      expect(ways.ownMaterial(mesh)).to.equal(material);
      if (way !== 'textured') expect(mesh.material).to.not.equal(material);
    }
    ways.restore();
    expect([mesh.material, mesh.geometry]).to.deep.equal([material, geometry]);
    expect(geometry.hasAttribute('color')).to.equal(false);
  });

  it('show values of data as they are: in and out by one curve', () => {
    const mesh = textured();
    new WaysOfSeeing().show([mesh], 'roughness', null);
    const { map } = mesh.material as MeshBasicMaterial;
    expect(map?.colorSpace).to.equal(SRGBColorSpace);
    expect((mesh.material as MeshBasicMaterial).customProgramCacheKey()).to.equal('channel g');
  });

  it('tell how dense textures and triangles are', () => {
    const mesh = textured();
    const ways = new WaysOfSeeing();
    // Each side of the cube is a square metre, with all of 64 x 64 texels on it, in two triangles.
    expect(ways.show([mesh], 'texels', null)).to.deep.equal({ low: 64, high: 64, unit: 'texels to a metre' });
    expect(ways.show([mesh], 'triangles', null)).to.deep.equal({
      ...{ low: 2, high: 2, unit: 'triangles to a square metre' },
    });
  });

  it('paint the weights of a bone by the name that its file has', () => {
    const mesh = skinned();
    const ways = new WaysOfSeeing();
    const redOf = (bone: string | null): number => {
      ways.show([mesh], 'weights', bone);
      return mesh.geometry.getAttribute('color').getX(0);
    };
    expect(new Set([redOf('hips'), redOf('hand.l'), redOf(null)]).size).to.equal(3);
    expect(redOf('nobody')).to.equal(redOf(null));
  });
});

describe('Parts of a model', () => {
  it('have names as their file has them, what they hang on, and what helpers are', () => {
    const model = new Group();
    const group = new Group();
    group.name = 'ferry';
    model.add(group);
    const deck = textured();
    deck.name = 'deck';
    const numbered = textured();
    numbered.name = 'lamp_1';
    numbered.userData.name = 'lamp.001';
    const helper = textured();
    helper.name = 'deck_collision';
    group.add(deck, numbered, helper);
    expect(
      partsOf(model).map(({ entry }) => [entry.name, entry.above.join('/'), entry.helper?.kind]),
    ).to.deep.equal([
      ['deck', 'ferry', undefined],
      ['lamp.001', 'ferry', undefined],
      ['deck_collision', 'ferry', 'collision'],
    ]);
    expect(partsOf(model)[0]?.entry).to.deep.include({
      id: 0,
      triangles: 12,
      vertices: 24,
      material: 'Wood',
    });
  });
});
