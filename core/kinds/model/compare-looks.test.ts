import { KHRMaterialsClearcoat } from '@gltf-transform/extensions';
import { expect } from 'chai';
import sharp from 'sharp';
import { IcosahedronGeometry, type BufferGeometry } from 'three';
import { compared, made, type Made } from '../../../tests/support/made-model.ts';
import { fingerprintOf, readBytes } from '../../../tests/support/read.ts';

const textured =
  (png: Buffer) =>
  ({ document, primitive }: Made): void => {
    primitive
      .getMaterial()
      ?.setBaseColorTexture(
        document.createTexture('wood').setImage(new Uint8Array(png)).setMimeType('image/png'),
      );
  };

const picture = (red: number, compressionLevel: number): Promise<Buffer> =>
  sharp({ create: { width: 64, height: 64, channels: 3, background: { r: red, g: 40, b: 40 } } })
    .png({ compressionLevel })
    .toBuffer();

describe('what lies on a shape that stays', () => {
  it('finds one vertex among 100,000 triangles that moved, by how far', async () => {
    const fine = (): BufferGeometry => new IcosahedronGeometry(1, 70);
    const spike = await made(({ array, vertices }) => {
      const at = Math.floor(vertices / 3) * 3;
      array('POSITION').set(
        array('POSITION')
          .slice(at, at + 3)
          .map((value) => value * 1.05),
        at,
      );
    }, fine());
    const { model, nature } = await compared(await made(undefined, fine()), spike);
    expect(nature).to.equal('other');
    expect(model.surface?.greatestMetres).to.be.closeTo(0.05, 1e-4);
  });

  it('is not merely written otherwise where UVs, normals or colours of a few triangles changed', async () => {
    const base = await made();
    const uvs = await compared(base, await made(({ array }) => void array('TEXCOORD_0').fill(0.9, 600, 602)));
    expect(uvs.nature).to.equal('other');
    expect(uvs.sentence).to.match(
      /^The same shape, UVs differ on 0\.\d\d % of its triangles, by up to 0\.\d+ of the picture\.$/,
    );
    const normals = await compared(
      base,
      await made(({ array }) => array('NORMAL').forEach((value, at, all) => (all[at] = -value))),
    );
    expect(normals.sentence).to.equal(
      'The same shape, normals differ on 100.0 % of its triangles, by up to 180°.',
    );
    const colours = await compared(
      base,
      await made(({ document, primitive, vertices }) => {
        const values = new Float32Array(vertices * 3).fill(0.5);
        primitive.setAttribute(
          'COLOR_0',
          document
            .createAccessor()
            .setType('VEC3')
            .setArray(values)
            .setBuffer(document.getRoot().listBuffers()[0] ?? null),
        );
      }),
    );
    expect(colours.sentence).to.equal('The same shape, with vertex colours now.');
  });

  it('is merely written otherwise where vertices stand in another order, or numbers have fewer digits', async () => {
    const base = await made();
    const shuffled = await made(({ primitive, vertices, array }) => {
      for (const semantic of ['POSITION', 'NORMAL', 'TEXCOORD_0']) {
        const [values, size] = [array(semantic), primitive.getAttribute(semantic)?.getElementSize() ?? 0];
        const turned = new Float32Array(values.length);
        for (let vertex = 0; vertex < vertices; vertex++)
          turned.set(values.subarray(vertex * size, (vertex + 1) * size), (vertices - 1 - vertex) * size);
        primitive.getAttribute(semantic)?.setArray(turned);
      }
      primitive
        .getIndices()
        ?.setArray(
          Uint32Array.from(
            primitive.getIndices()?.getArray() as Uint32Array,
            (vertex) => vertices - 1 - vertex,
          ),
        );
    });
    const rounded = await made(({ array }) => {
      array('POSITION').forEach((value, at, all) => (all[at] = Math.round(value * 32_767) / 32_767));
      array('TEXCOORD_0').forEach((value, at, all) => (all[at] = Math.round(value * 4095) / 4095));
      array('NORMAL').forEach((value, at, all) => (all[at] = Math.round(value * 127) / 127));
    });
    for (const other of [shuffled, rounded]) {
      const { nature, sentence } = await compared(base, other);
      expect([nature, sentence]).to.deep.equal(['rewritten', 'The same shape.']);
    }
  });

  it('tells what a material says otherwise, in its extensions too', async () => {
    const base = await made();
    const red = await compared(
      base,
      await made(
        ({ primitive }) =>
          void primitive.getMaterial()?.setBaseColorFactor([0.9, 0.1, 0.1, 1]).setDoubleSided(true),
      ),
    );
    expect(red.sentence).to.equal(
      'The same shape, material “wood”: colour (0.5, 0.3, 0.1, 1) → (0.9, 0.1, 0.1, 1), sides one → both.',
    );
    expect(red.figures).to.deep.include({
      name: 'colour of wood',
      old: '0.5, 0.3, 0.1, 1',
      new: '0.9, 0.1, 0.1, 1',
    });
    const coat = (factor: number) =>
      made(({ document, primitive }) => {
        const clearcoat = document
          .createExtension(KHRMaterialsClearcoat)
          .createClearcoat()
          .setClearcoatFactor(factor);
        primitive.getMaterial()?.setExtension('KHR_materials_clearcoat', clearcoat);
      });
    expect((await compared(await coat(0.2), await coat(0.8))).sentence).to.equal(
      'The same shape, material “wood”: other values in its extensions.',
    );
    const renamed = await compared(
      base,
      await made(({ primitive }) => void primitive.getMaterial()?.setName('oak')),
    );
    expect(renamed.sentence).to.include('material “wood” renamed to “oak”');
  });

  it('compares pictures inside a model as pictures: another one is told, the same one packed otherwise is not', async () => {
    const base = await made(textured(await picture(200, 9)));
    const packed = await made(textured(await picture(200, 0)));
    const other = await made(textured(await picture(20, 9)));
    expect((await compared(base, packed)).nature).to.equal('rewritten');
    const { sentence, nature } = await compared(base, other);
    expect([nature, sentence]).to.deep.equal([
      'other',
      'The same shape, the picture for colour of wood: all pixels differ, in red alone, darker, greener.',
    ]);
    // Nor may the fingerprint take the two for one.
    const fingerprints = await Promise.all(
      [base, other].map(async (bytes) => fingerprintOf(await readBytes(bytes, 'a.glb'))),
    );
    expect(fingerprints[0]).to.not.equal(fingerprints[1]);
  });

  it('tells weights that changed by how much, whatever the order of bones and what they are called', async () => {
    const skinned = (order: readonly string[], share: number, names = ['hip', 'knee']) =>
      made(({ document, primitive, vertices }) => {
        const buffer = document.getRoot().listBuffers()[0] ?? null;
        const bones = new Map(
          ['hip', 'knee'].map((name, at) => [name, document.createNode(names[at] ?? '')]),
        );
        const skin = document.createSkin();
        for (const name of order) {
          const bone = bones.get(name);
          if (!bone) continue;
          skin.addJoint(bone);
          document.getRoot().listScenes()[0]?.addChild(bone);
        }
        const joints = new Uint8Array(vertices * 4);
        const weights = new Float32Array(vertices * 4);
        for (let vertex = 0; vertex < vertices; vertex++) {
          joints.set([order.indexOf('hip'), order.indexOf('knee'), 0, 0], vertex * 4);
          weights.set([1 - share, share, 0, 0], vertex * 4);
        }
        primitive.setAttribute(
          'JOINTS_0',
          document.createAccessor().setType('VEC4').setArray(joints).setBuffer(buffer),
        );
        primitive.setAttribute(
          'WEIGHTS_0',
          document.createAccessor().setType('VEC4').setArray(weights).setBuffer(buffer),
        );
        document.getRoot().listNodes()[0]?.setSkin(skin);
      });
    const base = await skinned(['hip', 'knee'], 0.25);
    expect((await compared(base, await skinned(['knee', 'hip'], 0.25))).sentence).to.equal('The same shape.');
    expect((await compared(base, await skinned(['knee', 'hip'], 0.75))).sentence).to.match(
      /^The same shape, weights of bones differ on 100\.0 % of its triangles, by up to 50\.0 %\.$/,
    );
    for (const share of [0.26, 0.35, 1])
      expect((await compared(base, await skinned(['hip', 'knee'], share))).sentence, String(share)).to.match(
        share === 0.26
          ? /^The same shape\.$/
          : new RegExp(`by up to ${((share - 0.25) * 100).toFixed(1)} %\\.$`),
      );
    const renamed = await compared(base, await skinned(['hip', 'knee'], 0.25, ['hip', 'leg_knee']));
    expect(renamed.sentence).to.equal('The same shape, bone “knee” renamed to “leg_knee”.');
  });

  it('tells that a morph target reaches farther, and which one is new', async () => {
    const morphing = (names: readonly string[], metres: number) =>
      made(({ document, primitive, vertices }) => {
        const buffer = document.getRoot().listBuffers()[0] ?? null;
        for (const name of names) {
          const places = document
            .createAccessor()
            .setType('VEC3')
            .setArray(new Float32Array(vertices * 3).fill(metres))
            .setBuffer(buffer);
          primitive.addTarget(document.createPrimitiveTarget(name).setAttribute('POSITION', places));
        }
      });
    const base = await morphing(['swell'], 0.1);
    expect((await compared(base, await morphing(['swell'], 0.2))).sentence).to.equal(
      'The same shape, morph target swell differs on 100.0 % of its triangles, by up to 173 mm.',
    );
    expect((await compared(base, await morphing(['swell', 'leak'], 0.1))).sentence).to.equal(
      'The same shape, morph target leak new.',
    );
  });

  it('tells that a part has another name', async () => {
    const renamed = await made(({ document }) => void document.getRoot().listNodes()[0]?.setName('keg'));
    expect((await compared(await made(), renamed)).sentence).to.equal(
      'The same shape, part “barrel” renamed to “keg”.',
    );
  });

  it('tells of points to hang things on that moved or turned', async () => {
    const withHook = (metres: number, turned: boolean) =>
      made(({ document }) => {
        const hook = document
          .createNode('hook')
          .setTranslation([0, metres, 0])
          .setRotation(turned ? [0, Math.SQRT1_2, 0, Math.SQRT1_2] : [0, 0, 0, 1]);
        document.getRoot().listScenes()[0]?.addChild(hook);
      });
    const base = await withHook(1, false);
    expect((await compared(base, await withHook(1.25, false))).sentence).to.equal(
      'The same shape, 1 node moved, hook by 250 mm.',
    );
    expect((await compared(base, await withHook(1, true))).sentence).to.equal(
      'The same shape, 1 node moved, hook turned by 90°.',
    );
    expect((await compared(await made(), base)).sentence).to.equal('The same shape, node “hook” new.');
  });

  it('tells of clips that only turn a part in its place, or only morph', async () => {
    const turning = (degrees: number) =>
      made(({ document }) => {
        const buffer = document.getRoot().listBuffers()[0] ?? null;
        const half = (degrees * Math.PI) / 360;
        const input = document
          .createAccessor()
          .setType('SCALAR')
          .setArray(new Float32Array([0, 1]))
          .setBuffer(buffer);
        const output = document
          .createAccessor()
          .setType('VEC4')
          .setArray(new Float32Array([0, 0, 0, 1, 0, Math.sin(half), 0, Math.cos(half)]))
          .setBuffer(buffer);
        const sampler = document.createAnimationSampler().setInput(input).setOutput(output);
        const channel = document
          .createAnimationChannel()
          .setTargetNode(document.getRoot().listNodes()[0] ?? null)
          .setTargetPath('rotation')
          .setSampler(sampler);
        document.createAnimation('spin').addSampler(sampler).addChannel(channel);
      });
    expect((await compared(await turning(90), await turning(120))).sentence).to.equal(
      'The same shape, clip “spin”: barrel turned by up to 30°, at 1.00 s.',
    );
    const morphing = (share: number) =>
      made(({ document, primitive, vertices }) => {
        const buffer = document.getRoot().listBuffers()[0] ?? null;
        const target = document.createPrimitiveTarget().setAttribute(
          'POSITION',
          document
            .createAccessor()
            .setType('VEC3')
            .setArray(new Float32Array(vertices * 3).fill(0.1))
            .setBuffer(buffer),
        );
        primitive.addTarget(target);
        const input = document
          .createAccessor()
          .setType('SCALAR')
          .setArray(new Float32Array([0, 2]))
          .setBuffer(buffer);
        const output = document
          .createAccessor()
          .setType('SCALAR')
          .setArray(new Float32Array([0, share]))
          .setBuffer(buffer);
        const sampler = document.createAnimationSampler().setInput(input).setOutput(output);
        const channel = document
          .createAnimationChannel()
          .setTargetNode(document.getRoot().listNodes()[0] ?? null)
          .setTargetPath('weights')
          .setSampler(sampler);
        document.createAnimation('swell').addSampler(sampler).addChannel(channel);
      });
    expect((await compared(await morphing(1), await morphing(0.5))).sentence).to.equal(
      'The same shape, clip “swell”: barrel morphed by up to 50.0 %, at 2.00 s.',
    );
  });
});
