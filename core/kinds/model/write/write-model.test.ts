import { NodeIO, type Document } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { expect } from 'chai';
import { existsSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import sharp from 'sharp';
import { BoxGeometry, Mesh, type BufferGeometry } from 'three';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js';
import { made } from '../../../../tests/support/made-model.ts';
import { fileOf, writeBytes, type WriteOptions } from '../../../../tests/support/write.ts';
import { convertModel } from '../../../../server/decode/assimp.ts';
import type { Written } from '../../writing.ts';
import { metalOf } from './specular-to-metal.ts';

interface Validator {
  validateBytes(
    bytes: Uint8Array,
    options: { maxIssues: number; externalResourceFunction: (uri: string) => Promise<Uint8Array> },
  ): Promise<{ issues: { messages: { code: string; severity: number; pointer: string }[] } }>;
}
const validator = createRequire(import.meta.url)('gltf-validator') as Validator;

/** What the Khronos validator finds wrong: errors and warnings. */
async function problemsOf(written: Written, ending: '.glb' | '.gltf'): Promise<string[]> {
  const beside = new Map(written.files.map((file) => [`thing${file.ending}`, file.bytes]));
  const { issues } = await validator.validateBytes(fileOf(written, ending), {
    maxIssues: 0,
    externalResourceFunction: async (uri) => {
      const bytes = beside.get(decodeURIComponent(uri));
      if (!bytes) throw new Error(`${uri} is not beside it`);
      return new Uint8Array(bytes);
    },
  });
  return issues.messages
    .filter(({ severity }) => severity <= 1)
    .map(({ code, pointer }) => `${code} ${pointer}`);
}

const read = (glb: Uint8Array): Promise<Document> =>
  new NodeIO().registerExtensions(ALL_EXTENSIONS).readBinary(new Uint8Array(glb));
const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);
const buffer = (bytes: Uint8Array): ArrayBuffer => new Uint8Array(bytes).buffer;

/** Lowest and highest corner, rounded. */
function boundsOf(geometries: readonly BufferGeometry[]): number[][] {
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (const geometry of geometries) {
    geometry.computeBoundingBox();
    const box = geometry.boundingBox;
    [box?.min, box?.max].forEach((corner, at) =>
      corner?.toArray().forEach((value, axis) => {
        if (at === 0) low[axis] = Math.min(low[axis] ?? 0, value);
        else high[axis] = Math.max(high[axis] ?? 0, value);
      }),
    );
  }
  return [low, high].map((corner) => corner.map((value) => Math.round(value * 1e4) / 1e4 || 0));
}

/** A box of 0.2 × 0.3 × 0.5 m whose lowest corner is at 1, 2, 3. */
const box = (): Promise<Uint8Array> =>
  made(() => undefined, new BoxGeometry(0.2, 0.3, 0.5).translate(1.1, 2.15, 3.25));

describe('Writing models', () => {
  const frames = [
    ['metres', 'Y', 1],
    ['centimetres', 'Y', 100],
    ['millimetres', 'Z', 1000],
    ['metres', 'Z', 1],
  ] as const;
  for (const [unit, up, scale] of frames)
    it(`writes a box of a known size in ${unit}, ${up} up, as independent loaders read it`, async () => {
      const source = await box();
      // From Y up to Z up: (x, y, z) becomes (x, −z, y) (common practice, no published source).
      const wanted =
        up === 'Y'
          ? [
              [1, 2, 3],
              [1.2, 2.3, 3.5],
            ]
          : [
              [1, -3.5, 2],
              [1.2, -3, 2.3],
            ];
      const scaled = wanted.map((corner) => corner.map((value) => Math.round(value * scale * 1e4) / 1e4));
      const write = (as: 'stl' | 'ply' | 'obj' | 'glb'): Promise<Written> =>
        writeBytes(source, 'x.glb', { settings: { models: { as, unit, up } } });
      for (const as of ['stl', 'ply', 'obj', 'glb'] as const)
        expect((await write(as)).proof.verdict, as).to.equal('the same');
      const stl = new STLLoader().parse(buffer(fileOf(await write('stl'), '.stl')));
      expect(boundsOf([stl])).to.deep.equal(scaled);
      expect(stl.getAttribute('position').count).to.equal(36);
      expect(boundsOf([new PLYLoader().parse(buffer(fileOf(await write('ply'), '.ply')))])).to.deep.equal(
        scaled,
      );
      const obj: BufferGeometry[] = [];
      new OBJLoader().parse(text(fileOf(await write('obj'), '.obj'))).traverse((object) => {
        if (object instanceof Mesh) obj.push(object.geometry as BufferGeometry);
      });
      expect(boundsOf(obj)).to.deep.equal(scaled);
      const [mesh] = (await read(fileOf(await write('glb'), '.glb'))).getRoot().listMeshes();
      const position = mesh?.listPrimitives()[0]?.getAttribute('POSITION');
      expect(position?.getMin([]).map((value) => Math.round(value * 1e4) / 1e4)).to.deep.equal(scaled[0]);
    });

  it('writes 3MF in millimetres, Z up, that assimp reads with the same triangles and size', async () => {
    const written = await writeBytes(await box(), 'x.glb', {
      settings: { models: { as: '3mf', unit: 'millimetres' } },
    });
    expect(written.proof.sentence).to.match(/^The same shape/);
    const { glb } = await convertModel(fileOf(written, '.3mf'), 'x.3mf', () => Promise.resolve(null));
    const [primitive] =
      (await read(glb ?? new Uint8Array())).getRoot().listMeshes()[0]?.listPrimitives() ?? [];
    const position = primitive?.getAttribute('POSITION');
    expect(position?.getMin([]).map(Math.round)).to.deep.equal([1000, -3500, 2000]);
    expect(position?.getMax([]).map(Math.round)).to.deep.equal([1200, -3000, 2300]);
    expect(primitive?.getIndices()?.getCount()).to.equal(36);
  });

  it('hangs unit and axis on one node where that is asked for, and leaves the numbers alone', async () => {
    const written = await writeBytes(await box(), 'x.glb', {
      settings: { models: { unit: 'centimetres', up: 'Z', placed: 'in a root node' } },
    });
    expect(written.proof.verdict).to.equal('the same');
    const root = (await read(fileOf(written, '.glb'))).getRoot();
    const [holder] = root.listScenes()[0]?.listChildren() ?? [];
    expect(holder?.getScale()).to.deep.equal([100, 100, 100]);
    expect(root.listMeshes()[0]?.listPrimitives()[0]?.getAttribute('POSITION')?.getMin([])[1]).to.be.closeTo(
      2,
      1e-6,
    );
  });

  describe('Models that nobody here made (assimp-testmodels of Debian)', () => {
    const folder = '/usr/share/assimp/models';
    const beside =
      (path: string): WriteOptions['resolve'] =>
      async (reference) => {
        const file = join(dirname(path), reference);
        return existsSync(file) ? new Uint8Array(readFileSync(file)) : null;
      };
    const models = [
      ...['OBJ/spider.obj', 'Collada/duck.dae', 'MD2/faerie.md2', 'FBX/huesitos.fbx', 'BVH/Boxing_Toes.bvh'],
      ...[
        'glTF2/simple_skin/simple_skin.gltf',
        'glTF2/ClearCoat-glTF/ClearCoatTest.gltf',
        'STL/triangle.stl',
      ],
      ...['glTF2/BoxBadNormals-glTF-Binary/BoxBadNormals.glb', '3DS/fels.3ds', 'AC/Wuson.ac'],
      ...['glTF2/textureTransform/TextureTransformTest.gltf', 'PLY/Wuson.ply'],
    ].filter((name) => existsSync(join(folder, name)));

    it('are all there', () => expect(models).to.have.length.above(8));
    for (const name of models)
      it(`${name}: GLB and glTF, in metres and in centimetres with Z up, pass the Khronos validator and are the same again`, async () => {
        const path = join(folder, name);
        const bytes = new Uint8Array(readFileSync(path));
        const options = { resolve: beside(path), kind: 'model' } as const;
        const plain = await writeBytes(bytes, path, { ...options, settings: {} });
        expect(plain.proof).to.deep.equal({ verdict: 'the same', sentence: '' });
        expect(await problemsOf(plain, '.glb')).to.deep.equal([]);
        const models = { as: 'gltf', unit: 'centimetres', up: 'Z' } as const;
        const turned = await writeBytes(bytes, path, { ...options, settings: { models } });
        expect(await problemsOf(turned, '.gltf')).to.deep.equal([]);
        expect(
          turned.proof.sentence === '' ||
            /material .* other values in its extensions/.test(turned.proof.sentence),
        ).to.equal(true, turned.proof.sentence);
      });
  });

  it('moves bones, bind matrices and keys with the axis: what a bone does to a point is the same, seen from there', async () => {
    const path = '/usr/share/assimp/models/glTF2/simple_skin/simple_skin.gltf';
    const bytes = new Uint8Array(readFileSync(path));
    const write = async (models: object): Promise<Document> =>
      read(fileOf(await writeBytes(bytes, path, { settings: { models } }), '.glb'));
    const [plain, turned] = [await write({}), await write({ unit: 'centimetres', up: 'Z' })];
    /** Where each bone brings a point: by its place times its bind matrix. */
    const brought = (document: Document, [x, y, z]: readonly [number, number, number]): number[][] => {
      const [skin] = document.getRoot().listSkins();
      return (skin?.listJoints() ?? []).map((joint, at) => {
        const bind = skin?.getInverseBindMatrices()?.getElement(at, []) ?? [];
        const apply = (m: readonly number[], p: readonly number[]): number[] =>
          [0, 1, 2].map((row) =>
            [0, 1, 2].reduce((sum, k) => sum + (m[k * 4 + row] ?? 0) * (p[k] ?? 0), m[12 + row] ?? 0),
          );
        return apply(joint.getWorldMatrix(), apply(bind, [x, y, z]));
      });
    };
    const before = brought(plain, [0.3, 0.7, -0.2]);
    const after = brought(turned, [30, 20, 70]);
    expect(before.length).to.be.above(1);
    before.forEach(([x = 0, y = 0, z = 0], bone) =>
      [x * 100, -z * 100, y * 100].forEach((value, axis) =>
        expect(after[bone]?.[axis]).to.be.closeTo(value, 1e-3),
      ),
    );
  });

  it('puts the pictures of a set where glTF has them: gloss as roughness, packed with occlusion and metalness', async () => {
    const picture = async (grey: number): Promise<Uint8Array> =>
      new Uint8Array(
        await sharp({
          create: { width: 4, height: 4, channels: 3, background: { r: grey, g: grey, b: grey } },
        })
          .png()
          .toBuffer(),
      );
    const files = new Map([
      ['base.png', await picture(200)],
      ['gloss.png', await picture(60)],
      ['metal.png', await picture(250)],
      ['ao.png', await picture(90)],
    ]);
    const worn = [
      ['base colour', 'base.png'],
      ['gloss', 'gloss.png'],
      ['metalness', 'metal.png'],
      ['occlusion', 'ao.png'],
    ].map(([role = '', path = '']) => ({ material: 'wood', role, path, channels: [] }));
    const written = await writeBytes(await made(), 'x.glb', {
      settings: {},
      worn,
      resolve: async (reference) => files.get(reference) ?? null,
    });
    expect(await problemsOf(written, '.glb')).to.deep.equal([]);
    const [material] = (await read(fileOf(written, '.glb'))).getRoot().listMaterials();
    const pixel = async (image: Uint8Array | null | undefined): Promise<number[]> => [
      ...(
        await sharp(image ?? new Uint8Array())
          .removeAlpha()
          .raw()
          .toBuffer()
      ).subarray(0, 3),
    ];
    expect(await pixel(material?.getMetallicRoughnessTexture()?.getImage())).to.deep.equal([90, 195, 250]);
    expect(material?.getOcclusionTexture()).to.equal(material?.getMetallicRoughnessTexture());
    expect(await pixel(material?.getBaseColorTexture()?.getImage())).to.deep.equal([200, 200, 200]);
    // OBJ has a field for each: the packed picture is taken apart again.
    const obj = await writeBytes(await made(), 'x.glb', {
      settings: { models: { as: 'obj' } },
      worn,
      resolve: async (reference) => files.get(reference) ?? null,
    });
    expect(text(fileOf(obj, '.mtl'))).to.contain('map_Pr thing.pictures/wood-roughness.png');
    expect(await pixel(fileOf(obj, '.pictures/wood-roughness.png'))).to.deep.equal([195, 195, 195]);
  });

  it('converts specular colours to metalness as Khronos’s appendix does', () => {
    // Worked by hand from its formula (from memory): what reflects 4 % is no metal, and keeps its colour.
    const plain = metalOf([0.5, 0.25, 0.1], [0.04, 0.04, 0.04]);
    expect(plain.metalness).to.equal(0);
    [0.5, 0.25, 0.1].forEach((value, at) => expect(plain.base[at]).to.be.closeTo(value, 1e-9));
    // Gold: nothing is scattered, all of its colour is reflected.
    const gold = metalOf([0, 0, 0], [1, 0.71, 0.29]);
    expect(gold.metalness).to.be.closeTo(1, 1e-9);
    [1, 0.71, 0.29].forEach((value, at) => expect(gold.base[at]).to.be.closeTo(value, 1e-9));
  });

  it('leaves helper shapes and parts out, and says so', async () => {
    const twice = await made(({ document, primitive }) => {
      const node = document
        .createNode('UCX_barrel')
        .setMesh(document.createMesh('c').addPrimitive(primitive.clone()));
      const lid = document
        .createNode('lid')
        .setMesh(document.createMesh('l').addPrimitive(primitive.clone()));
      document.getRoot().listScenes()[0]?.addChild(node).addChild(lid);
    });
    const names = async (options: WriteOptions): Promise<string[]> =>
      (await read(fileOf(await writeBytes(twice, 'x.glb', options), '.glb')))
        .getRoot()
        .listNodes()
        .filter((node) => node.getMesh())
        .map((node) => node.getName());
    expect(await names({ settings: {} })).to.deep.equal(['barrel', 'lid']);
    expect(await names({ settings: { models: { helpers: 'kept' } } })).to.have.length(3);
    expect(await names({ settings: {}, leftOut: ['lid'] })).to.deep.equal(['barrel']);
    expect((await writeBytes(twice, 'x.glb', { settings: {} })).notes).to.include('1 shape left out');
  });

  it('refuses what has nothing to write, in a sentence', async () => {
    const reason = await writeBytes(await box(), 'x.glb', {
      settings: { models: { as: 'stl' } },
      leftOut: ['barrel'],
    }).then(
      () => 'nothing',
      (error: Error) => error.message,
    );
    expect(reason).to.match(/has no triangles, and this format holds nothing else$/);
  });

  it('says before what a format does not hold', async () => {
    const path = '/usr/share/assimp/models/FBX/huesitos.fbx';
    const written = await writeBytes(new Uint8Array(readFileSync(path)), path, {
      settings: { models: { as: 'stl' } },
    });
    expect(written.losses).to.include.members(['bones and weights', 'UVs', 'materials']);
  });
});
