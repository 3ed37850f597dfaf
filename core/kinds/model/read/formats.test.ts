import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { basename, join } from 'node:path';
import { Document, WebIO } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
} from '@gltf-transform/extensions';
import draco from 'draco3dgltf';
import { MeshoptEncoder } from 'meshoptimizer';
import type { ClipFacts, ModelFacts } from '../../../../contract/facts.ts';
import { ferry, glb, heron } from '../../../../demo/models.ts';
import { fingerprintOf, readBytes, readFile } from '../../../../tests/support/read.ts';
import type { Reading } from '../../reading.ts';

const models = '/usr/share/assimp/models';
const modelFacts = async (reading: Promise<Reading>): Promise<ModelFacts> =>
  (await reading).facts as ModelFacts;

/** Triangles and extent as the assimp library has them, whose readers are its own (Debian's models, BSD). */
async function independent(path: string): Promise<{ triangles: number; extents: number[] }> {
  const assimp = await (createRequire(import.meta.url)('assimpjs') as () => Promise<Assimp>)();
  const result = assimp.ConvertFile(
    basename(path),
    'glb2',
    readFileSync(path),
    () => false,
    () => new Uint8Array(0),
  );
  const facts = await modelFacts(readBytes(new Uint8Array(result.GetFile(0).GetContent()), 'x.glb'));
  return { triangles: facts.triangles, extents: extentsOf(facts) };
}
interface Assimp {
  ConvertFile(...args: unknown[]): { GetFile(at: number): { GetContent(): Uint8Array } };
}
function extentsOf({ boundsMetres }: ModelFacts): number[] {
  return [0, 1, 2]
    .map((axis) => (boundsMetres?.max[axis] ?? 0) - (boundsMetres?.min[axis] ?? 0))
    .sort((a, b) => a - b);
}

describe('Formats of models', () => {
  for (const path of [
    'OBJ/WusonOBJ.obj',
    'OBJ/spider.obj',
    'STL/Spider_binary.stl',
    'STL/Spider_ascii.stl',
    'STL/sphereWithHole.stl',
    'PLY/cube.ply',
    'PLY/cube_binary.ply',
    'PLY/Wuson.ply',
    'Collada/sphere.dae',
    'Collada/COLLADA.dae',
    'Collada/cube_with_2UVs.DAE',
    'FBX/phong_cube.fbx',
    'FBX/spider.fbx',
    'FBX/huesitos.fbx',
  ])
    it(`${path}: triangles and proportions as an independent library has them`, async () => {
      const ours = await modelFacts(readFile(join(models, path)));
      const theirs = await independent(join(models, path));
      expect(ours.triangles).to.equal(theirs.triangles);
      // That library keeps the file's units: the sides' proportions are compared, in the order of their length.
      const longest = (sides: number[]): number => sides[2] ?? 1;
      const own = extentsOf(ours);
      own.forEach((side, at) =>
        expect(side / longest(own)).to.be.closeTo((theirs.extents[at] ?? 0) / longest(theirs.extents), 0.002),
      );
    });

  it('centimetres become metres, and Z up Y up (common practice, no published source)', async () => {
    const collada = await modelFacts(readFile(join(models, 'Collada/cube_with_2UVs.DAE')));
    // A cube of two inches: 0.0254 m to a unit, standing on the ground.
    expect(collada.units).to.equal('0.0254 m to a unit, Z up');
    collada.boundsMetres?.max.forEach((value, axis) =>
      expect(value).to.be.closeTo([0.0254, 0.0508, 0.0254][axis] ?? 0, 1e-6),
    );
    const fbx = await modelFacts(readFile(join(models, 'FBX/phong_cube.fbx')));
    expect(fbx.units).to.equal('centimetres');
    expect(fbx.boundsMetres?.max[0]).to.be.closeTo(0.005, 1e-6);
  });

  it('the model of a 3MF package: millimetres, Z up (3MF Core Specification, section 3.3)', async () => {
    const text = `<?xml version="1.0"?><model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="100" y="0" z="0"/><vertex x="0" y="200" z="0"/><vertex x="0" y="0" z="300"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="0" v2="3" v3="2"/><triangle v1="1" v2="2" v3="3"/></triangles></mesh></object></resources><build><item objectid="1"/></build></model>`;
    const facts = await modelFacts(readBytes(new TextEncoder().encode(text), '3D/3dmodel.model'));
    expect(facts).to.include({ triangles: 4, units: 'millimeter, Z up' });
    facts.boundsMetres?.max.forEach((value, axis) =>
      expect(value).to.be.closeTo([0.1, 0.3, 0][axis] ?? 0, 1e-6),
    );
  });

  it('an OBJ has its materials and names the files that it lacks', async () => {
    const facts = await modelFacts(readFile(join(models, 'OBJ/spider.obj')));
    expect(facts).to.include({ materials: 4, textures: 4 });
    const bytes = readFileSync(join(models, 'OBJ/spider.obj'));
    const alone = await modelFacts(
      readBytes(bytes, 'spider.obj', (name) =>
        Promise.resolve(name.endsWith('.mtl') ? readFileSync(join(models, 'OBJ', name)) : null),
      ),
    );
    expect(alone.missing).to.include('wal67ar_small.jpg');
  });

  it('a file of motion alone is a clip: its length, rate and bones as its text has them', async () => {
    const path = join(
      models,
      'BVH',
      readdirSync(join(models, 'BVH')).find((name) => name.endsWith('.bvh')) ?? '',
    );
    const text = readFileSync(path, 'latin1');
    const frames = Number(/Frames:\s*(\d+)/.exec(text)?.[1]);
    const step = Number(/Frame Time:\s*([\d.]+)/.exec(text)?.[1]);
    const { facts } = await readFile(path);
    const { kind, clips } = facts as ClipFacts;
    expect(kind).to.equal('clip');
    expect(clips[0]?.seconds).to.be.closeTo((frames - 1) * step, 0.01);
    expect(clips[0]?.rate).to.equal(Math.round(1 / step));
    expect(clips[0]?.bones).to.be.at.most((text.match(/\b(?:ROOT|JOINT)\b/g) ?? []).length);
    await readBytes(readFileSync(path).subarray(0, 60_000), 'x.bvh').then(
      () => expect.fail('it should not be read'),
      (error: Error) => expect(error.message).to.match(/cut short: it promises \d+ frames/),
    );
  });

  it('a clip ends where its last key is: keys from frame 0 to frame 91 (common practice, no published source)', async () => {
    const document = new Document();
    const buffer = document.createBuffer();
    const node = document.createNode('bone');
    document.createScene().addChild(node);
    const times = Float32Array.from({ length: 92 }, (_, frame) => frame / 30);
    const sampler = document
      .createAnimationSampler()
      .setInput(document.createAccessor().setType('SCALAR').setArray(times).setBuffer(buffer))
      .setOutput(
        document
          .createAccessor()
          .setType('VEC3')
          .setArray(new Float32Array(92 * 3))
          .setBuffer(buffer),
      );
    document
      .createAnimation('wave')
      .addSampler(sampler)
      .addChannel(
        document
          .createAnimationChannel()
          .setTargetNode(node)
          .setTargetPath('translation')
          .setSampler(sampler),
      );
    const { facts } = await readBytes(await new WebIO().writeBinary(document), 'x.glb');
    const [clip] = (facts as ClipFacts).clips;
    expect(clip).to.include({ name: 'wave', rate: 30, bones: 1 });
    expect((clip?.seconds ?? 0) * 30).to.be.closeTo(91, 1e-4);
  });

  describe('glTF', () => {
    it('whose names are null or numbers', async () => {
      const { json, resources } = await new WebIO().binaryToJSON(await heron(1, 12, 2));
      for (const buffer of json.buffers ?? [])
        buffer.uri = `data:application/octet-stream;base64,${Buffer.from(resources['@glb.bin'] ?? []).toString('base64')}`;
      const misnamed = json as unknown as Record<string, { name: unknown }[]>;
      for (const list of ['nodes', 'meshes', 'materials', 'animations', 'scenes', 'skins'])
        misnamed[list]?.forEach((one, at) => (one.name = at % 2 === 0 ? at : null));
      const facts = await modelFacts(readBytes(Buffer.from(JSON.stringify(json)), 'x.gltf'));
      expect(facts.triangles).to.be.above(0);
      expect(facts.clips.map(({ name }) => name)).to.deep.equal(['0']);
    });

    const packed = async (
      extension: typeof KHRDracoMeshCompression,
      bytes: Uint8Array,
    ): Promise<Uint8Array> => {
      await MeshoptEncoder.ready;
      const { createEncoderModule } = draco as unknown as { createEncoderModule: () => Promise<unknown> };
      const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({
        'draco3d.encoder': await createEncoderModule(),
        'meshopt.encoder': MeshoptEncoder,
      });
      const document = await io.readBinary(bytes);
      document.createExtension(extension).setRequired(true);
      return io.writeBinary(document);
    };

    it('packed by Draco and by meshopt: triangles, bones and clips as before, the extent within a thousandth', async () => {
      const plain = await heron(1, 12, 2);
      const before = await modelFacts(readBytes(plain, 'x.glb'));
      for (const extension of [KHRDracoMeshCompression, EXTMeshoptCompression as never]) {
        const after = await modelFacts(readBytes(await packed(extension, plain), 'x.glb'));
        expect(after.triangles).to.equal(before.triangles);
        expect(after.bones).to.equal(before.bones);
        expect(after.clips).to.deep.equal(before.clips);
        extentsOf(after).forEach((side, axis) =>
          expect(side).to.be.closeTo(extentsOf(before)[axis] ?? 0, 0.002),
        );
      }
    });

    it('the same with its vertices and triangles in another order has the same fingerprint, and another one has not', async () => {
      const bytes = await glb('ferry', ferry(12, 6, undefined as never));
      const io = new WebIO();
      const document = await io.readBinary(bytes);
      for (const mesh of document.getRoot().listMeshes())
        for (const primitive of mesh.listPrimitives()) reverse(primitive);
      const [first, turned] = [
        await readBytes(bytes, 'x.glb'),
        await readBytes(await io.writeBinary(document), 'x.glb'),
      ];
      expect(fingerprintOf(turned)).to.equal(fingerprintOf(first));
      // What it is like is told by points on its surface, which are others now: it is near, where another model is not.
      const distance = (a: Reading, b: Reading): number =>
        [...(a.signature ?? [])].reduce(
          (sum, value, at) => sum + Math.abs(value - (b.signature?.[at] ?? 0)),
          0,
        );
      const other = await readBytes(await glb('heron', ferry(3, 40, undefined as never)), 'x.glb');
      expect(distance(turned, first)).to.be.lessThan(distance(other, first) / 2);
      const position = document.getRoot().listMeshes()[0]?.listPrimitives()[0]?.getAttribute('POSITION');
      position?.setElement(0, [1, 2, 3]);
      expect(fingerprintOf(await readBytes(await io.writeBinary(document), 'x.glb'))).to.not.equal(
        fingerprintOf(first),
      );
    });

    it('instances count where they stand', async () => {
      const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
      const document = await io.readBinary(await glb('ferry', ferry(12, 6, undefined as never)));
      const before = await modelFacts(readBytes(await io.writeBinary(document), 'x.glb'));
      const places = document
        .createAccessor()
        .setType('VEC3')
        .setArray(new Float32Array([0, 0, 0, 100, 0, 0]))
        .setBuffer(document.getRoot().listBuffers()[0] ?? null);
      const node = document
        .getRoot()
        .listNodes()
        .find((each) => each.getMesh());
      node?.setExtension(
        'EXT_mesh_gpu_instancing',
        document
          .createExtension(EXTMeshGPUInstancing)
          .setRequired(true)
          .createInstancedMesh()
          .setAttribute('TRANSLATION', places),
      );
      const after = await modelFacts(readBytes(await io.writeBinary(document), 'x.glb'));
      expect(after.instances).to.equal(before.instances + 1);
    });

    it('says what is cut short, and where', async () => {
      const bytes = await glb('ferry', ferry(12, 6, undefined as never));
      for (const [length, reason] of [
        [12, 'its header has 20 bytes'],
        [900, 'byte 8 tells of'],
      ] as const)
        await readBytes(bytes.subarray(0, length), 'x.glb').then(
          () => expect.fail('it should not be read'),
          (error: Error) => expect(error.message).to.include(reason),
        );
    });
  });

  it('a model that is cut short is reported, not read in part', async () => {
    for (const path of [
      'STL/Spider_binary.stl',
      'STL/Spider_ascii.stl',
      'PLY/cube_binary.ply',
      'PLY/pond.0.ply',
      'FBX/phong_cube.fbx',
    ]) {
      const bytes = readFileSync(join(models, path));
      await readBytes(bytes.subarray(0, bytes.length * 0.6), path).then(
        () => expect.fail(`${path} should not be read`),
        (error: Error) => expect(error.name, path).to.equal('ReadError'),
      );
    }
  });
});

/** Turns the order of a primitive's vertices round, and of its triangles. */
function reverse(primitive: import('@gltf-transform/core').Primitive): void {
  const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
  for (const accessor of primitive.listAttributes()) {
    const elements = Array.from({ length: count }, (_, at) => accessor.getElement(at, []));
    elements.forEach((element, at) => accessor.setElement(count - 1 - at, element));
  }
  const indices = primitive.getIndices();
  if (!indices) return;
  const corners = Array.from({ length: indices.getCount() }, (_, at) => count - 1 - indices.getScalar(at));
  for (let triangle = 0; triangle < corners.length / 3; triangle++)
    for (let corner = 0; corner < 3; corner++)
      // The triangles from the last on, each beginning with its second corner.
      indices.setScalar(
        triangle * 3 + corner,
        corners[corners.length - 3 - triangle * 3 + ((corner + 1) % 3)] ?? 0,
      );
}
