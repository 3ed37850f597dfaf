import { NodeIO } from '@gltf-transform/core';
import { expect } from 'chai';
import { createRequire } from 'node:module';
import * as THREE from 'three';
import { documentFromThree, isEmbedded, withoutLoading } from './from-three.ts';

interface Validation {
  issues: { numErrors: number; messages: { message: string }[] };
}
const { validateBytes } = createRequire(import.meta.url)('gltf-validator') as {
  validateBytes: (bytes: Uint8Array, options: { maxIssues: number }) => Promise<Validation>;
};

/** Errors that the Khronos validator finds in what a document is written as. */
async function errorsOf(document: ReturnType<typeof documentFromThree>): Promise<string[]> {
  const { issues } = await validateBytes(await new NodeIO().writeBinary(document), { maxIssues: 0 });
  return issues.numErrors === 0 ? [] : issues.messages.map(({ message }) => message);
}

/** From a scene of three's to the canonical form: nothing that a loader gives is lost. */
describe('documentFromThree', () => {
  const triangle = (): THREE.BufferGeometry => {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.Float32BufferAttribute([0, 0, 0, 1, 0, 0, 0, 1, 0], 3));
    geometry.setAttribute('normal', new THREE.Float32BufferAttribute([0, 0, 1, 0, 0, 1, 0, 0, 1], 3));
    geometry.setAttribute('uv', new THREE.Float32BufferAttribute([0, 0.25, 1, 0, 0, 1], 2));
    return geometry;
  };

  it('makes one vertex of equal corners, and counts v from the top', async () => {
    const box = new THREE.BoxGeometry(2, 2, 2).toNonIndexed();
    const document = documentFromThree(new THREE.Group().add(new THREE.Mesh(box)), [], new Map());
    const [primitive] = document.getRoot().listMeshes()[0]?.listPrimitives() ?? [];
    expect(primitive?.getIndices()?.getCount()).to.equal(36);
    // Four corners of their own for each of six sides: their normals differ.
    expect(primitive?.getAttribute('POSITION')?.getCount()).to.equal(24);
    expect(await errorsOf(document)).to.deep.equal([]);
    const plain = documentFromThree(new THREE.Mesh(triangle()), [], new Map());
    const uv = plain.getRoot().listMeshes()[0]?.listPrimitives()[0]?.getAttribute('TEXCOORD_0');
    expect([0, 1, 2].map((at) => uv?.getElement(at, []))).to.deep.equal([
      [0, 0.75],
      [1, 1],
      [0, 0],
    ]);
  });

  it('keeps the tree with its names and places, one mesh for what is placed twice', async () => {
    const geometry = triangle();
    const material = new THREE.MeshStandardMaterial({
      name: 'wood',
      color: 0x336699,
      side: THREE.DoubleSide,
    });
    const root = new THREE.Group();
    root.name = 'pier';
    for (const x of [1, 5]) {
      const plank = new THREE.Mesh(geometry, material);
      plank.name = `plank ${x}`;
      plank.position.set(x, 0, 0);
      plank.rotation.set(0, Math.PI / 2, 0);
      root.add(plank);
    }
    const document = documentFromThree(root, [], new Map());
    const all = document.getRoot();
    expect(all.listNodes().map((node) => node.getName())).to.deep.equal(['pier', 'plank 1', 'plank 5']);
    expect(all.listNodes()[2]?.getTranslation()).to.deep.equal([5, 0, 0]);
    expect(all.listNodes()[1]?.getRotation()[1]).to.be.closeTo(Math.SQRT1_2, 1e-6);
    expect([all.listMeshes().length, all.listMaterials().length]).to.deep.equal([1, 1]);
    const [wood] = all.listMaterials();
    expect([wood?.getName(), wood?.getDoubleSided()]).to.deep.equal(['wood', true]);
    expect(await errorsOf(document)).to.deep.equal([]);
  });

  it('cuts a geometry into a part for each of its materials', () => {
    const geometry = new THREE.BoxGeometry(1, 1, 1);
    const materials = Array.from(
      { length: 6 },
      (_, at) => new THREE.MeshBasicMaterial({ name: `side ${at}` }),
    );
    const document = documentFromThree(new THREE.Mesh(geometry, materials), [], new Map());
    const parts = document.getRoot().listMeshes()[0]?.listPrimitives() ?? [];
    expect(parts.map((part) => [part.getMaterial()?.getName(), part.getIndices()?.getCount()])).to.deep.equal(
      materials.map(({ name }) => [name, 6]),
    );
  });

  it('keeps skins, morph targets and clips', async () => {
    const geometry = triangle();
    geometry.setAttribute(
      'skinIndex',
      new THREE.Uint16BufferAttribute([0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0], 4),
    );
    geometry.setAttribute(
      'skinWeight',
      new THREE.Float32BufferAttribute([1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0], 4),
    );
    const wide = new THREE.Float32BufferAttribute([0, 0, 0, 3, 0, 0, 0, 1, 0], 3);
    wide.name = 'wide';
    geometry.morphAttributes.position = [wide];
    const bones = ['hip', 'knee'].map((name) => Object.assign(new THREE.Bone(), { name }));
    bones[0]?.add(bones[1] ?? new THREE.Bone());
    bones[1]?.position.set(0, -1, 0);
    const leg = new THREE.SkinnedMesh(geometry, new THREE.MeshBasicMaterial());
    const root = new THREE.Group().add(leg, bones[0] ?? new THREE.Bone());
    root.updateMatrixWorld(true);
    leg.bind(new THREE.Skeleton(bones));
    const clip = new THREE.AnimationClip('step', 1, [
      new THREE.QuaternionKeyframeTrack('knee.quaternion', [0, 1], [0, 0, 0, 1, 0, 1, 0, 0]),
      new THREE.VectorKeyframeTrack('hip.position', [0, 1], [0, 0, 0, 0, 2, 0]),
      new THREE.VectorKeyframeTrack('nobody.position', [0, 1], [0, 0, 0, 0, 2, 0]),
    ]);
    const document = documentFromThree(root, [clip], new Map());
    const all = document.getRoot();
    expect(
      all
        .listSkins()[0]
        ?.listJoints()
        .map((joint) => joint.getName()),
    ).to.deep.equal(['hip', 'knee']);
    // The knee lies one below the origin: its inverse lifts by one.
    expect(all.listSkins()[0]?.getInverseBindMatrices()?.getElement(1, [])[13]).to.be.closeTo(1, 1e-6);
    const [target] = all.listMeshes()[0]?.listPrimitives()[0]?.listTargets() ?? [];
    expect(target?.getName()).to.equal('wide');
    const moved = target?.getAttribute('POSITION');
    expect([0, 1, 2].map((at) => moved?.getElement(at, []))).to.deep.equal([
      [0, 0, 0],
      [2, 0, 0],
      [0, 0, 0],
    ]);
    const [step] = all.listAnimations();
    expect(
      step?.listChannels().map((one) => [one.getTargetNode()?.getName(), one.getTargetPath()]),
    ).to.deep.equal([
      ['knee', 'rotation'],
      ['hip', 'translation'],
    ]);
    expect(await errorsOf(document)).to.deep.equal([]);
  });

  it('names textures that lie beside a model, and holds those that were given', () => {
    const map = new THREE.Texture();
    map.userData = { file: 'skins/wood.png' };
    const lost = new THREE.Texture();
    lost.userData = { file: 'gone.png' };
    const material = new THREE.MeshStandardMaterial({ map, normalMap: lost });
    const png = Uint8Array.of(0x89, 0x50);
    const document = documentFromThree(
      new THREE.Mesh(triangle(), material),
      [],
      new Map([['skins/wood.png', png]]),
    );
    const textures = document.getRoot().listTextures();
    expect(textures.map((texture) => [texture.getURI(), texture.getImage()?.length ?? 0])).to.deep.equal([
      ['skins/wood.png', 2],
      ['gone.png', 0],
    ]);
    expect(textures[0]?.getMimeType()).to.equal('image/png');
    expect([isEmbedded('data:image/png;base64,x'), isEmbedded('blob:1'), isEmbedded('a.png')]).to.deep.equal([
      true,
      true,
      false,
    ]);
  });

  it('has loaders name their textures and load none, and puts all back as it was', () => {
    const load = (): unknown => Object.getOwnPropertyDescriptor(THREE.TextureLoader.prototype, 'load')?.value;
    const before = load();
    const texture = withoutLoading(() => new THREE.TextureLoader().load('.\\skins\\wood.png'));
    expect(texture.userData.file).to.equal('skins/wood.png');
    expect(() =>
      withoutLoading(() => {
        throw new Error('broken');
      }),
    ).to.throw('broken');
    expect(before).to.be.a('function');
    expect(load()).to.equal(before);
  });

  it('keeps points and lines as what they are, and passes over what has no positions', () => {
    const root = new THREE.Group().add(
      new THREE.Points(triangle()),
      new THREE.LineSegments(triangle()),
      new THREE.Line(triangle()),
      new THREE.Mesh(new THREE.BufferGeometry()),
    );
    const modes = documentFromThree(root, [], new Map())
      .getRoot()
      .listMeshes()
      .map((mesh) => mesh.listPrimitives().map((part) => part.getMode()));
    expect(modes).to.deep.equal([[0], [1], [3], []]);
  });
});
