import { expect } from 'chai';
import { createRequire } from 'node:module';
import { Document, Primitive, WebIO } from '@gltf-transform/core';
import type { ModelFacts } from '../../../contract/facts.ts';
import { ferry, glb, heron, lantern } from '../../../demo/models.ts';
import { planks } from '../../../demo/pictures.ts';
import { readBytes } from '../../../tests/support/read.ts';
import { previewSize, type Reading } from '../reading.ts';
import { triangleCount } from './triangles.ts';

interface Report {
  info: {
    totalTriangleCount: number;
    totalVertexCount: number;
    materialCount: number;
    animationCount: number;
  };
}
const validator = createRequire(import.meta.url)('gltf-validator') as {
  validateBytes(bytes: Uint8Array, options: { maxIssues: number }): Promise<Report>;
};
const read = (bytes: Uint8Array): Promise<Reading> => readBytes(bytes, 'x.glb');

describe('readModel', () => {
  it('counts what the Khronos validator counts', async () => {
    const texture = await planks('test', 32, [140, 100, 60], 4);
    for (const bytes of [
      await glb('ferry', ferry(12, 6, texture)),
      await glb('lantern', lantern(14, 0.7, 3, texture)),
      await heron(1, 12, 2),
    ]) {
      const facts = (await read(bytes)).facts as ModelFacts;
      const { info } = await validator.validateBytes(bytes, { maxIssues: 0 });
      expect(facts).to.include({
        triangles: info.totalTriangleCount,
        vertices: info.totalVertexCount,
        materials: info.materialCount,
      });
      expect(facts.clips).to.have.length(info.animationCount);
    }
  });

  it('reads open sample models packed by Draco (@pmndrs/assets 1.7.0, CC0) as the Khronos validator counts them, and as large', async () => {
    for (const name of ['bunny', 'suzi', 'pmndrs']) {
      const { default: url } = (await import(`@pmndrs/assets/models/${name}.glb.js`)) as { default: string };
      const bytes = Buffer.from(url.slice(url.indexOf(',') + 1), 'base64');
      const facts = (await read(bytes)).facts as ModelFacts;
      const { info } = await validator.validateBytes(bytes, { maxIssues: 0 });
      expect(facts, name).to.include({
        triangles: info.totalTriangleCount,
        vertices: info.totalVertexCount,
        materials: info.materialCount,
      });
      // The exporter wrote the bounds of what it packed into the accessors; Draco rounds positions.
      const json = JSON.parse(bytes.subarray(20, 20 + bytes.readUInt32LE(12)).toString('utf8')) as {
        accessors: { min?: number[]; max?: number[]; type: string }[];
        meshes: { primitives: { attributes: { POSITION: number } }[] }[];
        nodes: { mesh?: number; scale?: number[]; translation?: number[]; rotation?: number[] }[];
      };
      const node = json.nodes.find(({ mesh }) => mesh !== undefined);
      const isPlain = json.meshes.length === 1 && !node?.scale && !node?.translation && !node?.rotation;
      const position = json.accessors[json.meshes[0]?.primitives[0]?.attributes.POSITION ?? 0];
      if (!isPlain || !position?.min || !position.max) continue;
      facts.boundsMetres?.min.forEach((value, axis) =>
        expect(value).to.be.closeTo(position.min?.[axis] ?? NaN, 0.01),
      );
      facts.boundsMetres?.max.forEach((value, axis) =>
        expect(value).to.be.closeTo(position.max?.[axis] ?? NaN, 0.01),
      );
    }
  });

  it('lets a clip end where its last key is: 91 frames of a thirtieth of a second (common practice)', async () => {
    const facts = (await read(await heron(1, 8, 91 / 30))).facts as ModelFacts;
    expect(facts.clips).to.have.length(1);
    expect(facts.clips[0]?.seconds).to.be.closeTo(91 / 30, 1e-6);
    expect(facts.bones).to.equal(4);
  });

  it('draws the same picture of the same model, whatever its scale, and another one of another', async () => {
    const pictures = await Promise.all(
      [
        heron(1, 12, 2),
        heron(1, 12, 2),
        heron(1000, 12, 2),
        glb('f', ferry(12, 6, await planks('t', 32, [140, 100, 60], 4))),
      ].map(async (model) => (await read(await model)).preview),
    );
    const [first, again, large, other] = pictures.map((picture) => Buffer.from(picture?.rgba ?? []));
    expect(first?.length).to.equal(previewSize ** 2 * 4);
    expect(first?.equals(again ?? Buffer.alloc(0))).to.equal(true);
    expect(difference(first, large)).to.be.lessThan(0.01);
    expect(difference(first, other)).to.be.greaterThan(0.05);
  });

  it('says why a model cannot be read', async () => {
    const whole = await heron(1, 8, 1);
    for (const bytes of [
      whole.subarray(0, 200),
      new TextEncoder().encode('{"asset":'),
      new TextEncoder().encode('{}'),
    ])
      await readBytes(bytes, bytes[0] === 0x67 ? 'x.glb' : 'x.gltf').then(
        () => expect.fail('it should not be read'),
        (error: Error) => expect(error.message).to.match(/^this ((is not a )?glTF model|GLB)/),
      );
  });

  it('passes models of many parts through their own format unharmed', async () => {
    const bytes = await glb('ferry', ferry(8, 4, await planks('t', 16, [9, 9, 9], 2)));
    const again = await new WebIO().writeBinary(await new WebIO().readBinary(bytes));
    expect(((await read(again)).facts as ModelFacts).triangles).to.equal(
      ((await read(bytes)).facts as ModelFacts).triangles,
    );
  });
});

describe('triangleCount', () => {
  it('goes by the mode of the primitive (glTF 2.0, 3.7.2.1)', () => {
    const document = new Document();
    const indices = document.createAccessor().setType('SCALAR').setArray(new Uint16Array(9));
    const count = (mode: keyof typeof Primitive.Mode): number =>
      triangleCount(
        document
          .createPrimitive()
          .setIndices(indices)
          .setMode(Primitive.Mode[mode] ?? 0),
      );
    expect(count('TRIANGLES')).to.equal(3);
    expect(count('TRIANGLE_STRIP')).to.equal(7);
    expect(count('TRIANGLE_FAN')).to.equal(7);
    expect(count('LINES')).to.equal(0);
  });
});

/** Mean difference of the alphas, 0 to 1. */
function difference(a: Buffer | undefined, b: Buffer | undefined): number {
  if (!a || !b || a.length !== b.length) return 1;
  let sum = 0;
  for (let at = 3; at < a.length; at += 4) sum += Math.abs((a[at] ?? 0) - (b[at] ?? 0));
  return sum / 255 / (a.length / 4);
}
