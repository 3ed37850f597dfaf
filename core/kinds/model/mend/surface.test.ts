import { Document } from '@gltf-transform/core';
import { expect } from 'chai';
import { BoxGeometry, SphereGeometry, type BufferGeometry } from 'three';
import { mendSettingsSchema, type MendSettings } from '../../../../contract/haul-settings.ts';
import { elements, triangleIndices, trianglesOf } from '../triangles.ts';
import { mendSurface } from './surface.ts';

function documentOf(shape: BufferGeometry, names: readonly string[] = ['position', 'normal']): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const primitive = document.createPrimitive();
  const semantics: Readonly<Record<string, string>> = {
    position: 'POSITION',
    normal: 'NORMAL',
    uv: 'TEXCOORD_0',
  };
  for (const name of names) {
    const { array, itemSize } = shape.getAttribute(name);
    primitive.setAttribute(
      semantics[name] ?? name,
      document
        .createAccessor()
        .setType(itemSize === 2 ? 'VEC2' : 'VEC3')
        .setArray(new Float32Array(array))
        .setBuffer(buffer),
    );
  }
  primitive.setIndices(
    document
      .createAccessor()
      .setType('SCALAR')
      .setArray(Uint32Array.from(shape.getIndex()?.array ?? []))
      .setBuffer(buffer),
  );
  document
    .createScene()
    .addChild(document.createNode('it').setMesh(document.createMesh().addPrimitive(primitive)));
  return document;
}

const mend = (document: Document, settings: Partial<MendSettings>): Promise<string[]> =>
  mendSurface(document, mendSettingsSchema.parse(settings));
const primitiveOf = (document: Document) => {
  const [primitive] = document.getRoot().listMeshes()[0]?.listPrimitives() ?? [];
  if (!primitive) throw new Error('no primitive');
  return primitive;
};
/** Six times the volume that triangles enclose. */
function volumeOf(document: Document): number {
  let sum = 0;
  for (const { positions, indices } of trianglesOf(document))
    for (let at = 0; at < indices.length; at += 3) {
      const p = [0, 1, 2].flatMap((k) => [...positions.subarray((indices[at + k] ?? 0) * 3).slice(0, 3)]);
      const [ax = 0, ay = 0, az = 0, bx = 0, by = 0, bz = 0, cx = 0, cy = 0, cz = 0] = p;
      sum += ax * (by * cz - bz * cy) - ay * (bx * cz - bz * cx) + az * (bx * cy - by * cx);
    }
  return sum;
}

describe('Mending of surfaces', () => {
  it('leaves all as it is where nothing is asked for', async () => {
    const document = documentOf(new BoxGeometry(1, 1, 1));
    const before = [...triangleIndices(primitiveOf(document))];
    expect(await mend(document, {})).to.deep.equal([]);
    expect([...triangleIndices(primitiveOf(document))]).to.deep.equal(before);
  });

  it('joins vertices that are equal, and no others', async () => {
    const loose = new BoxGeometry(1, 1, 1).toNonIndexed();
    loose.setIndex([...Array(36).keys()]);
    const document = documentOf(loose);
    expect(await mend(document, { vertices: 'joined' })).to.deep.equal(['12 duplicate vertices joined']);
    // Six sides of four corners each: their normals differ.
    expect(primitiveOf(document).getAttribute('POSITION')?.getCount()).to.equal(24);
  });

  it('leaves triangles without an area out', async () => {
    const shape = new BoxGeometry(1, 1, 1);
    shape.setIndex([...(shape.getIndex()?.array ?? []), 0, 0, 1, 4, 4, 4]);
    const document = documentOf(shape);
    const asked = { triangles: 'those without area left out' } as const;
    expect(await mend(document, asked)).to.deep.equal(['2 triangles without area left out']);
    expect(triangleIndices(primitiveOf(document))).to.have.length(36);
  });

  it('turns what faces inwards, with its normals', async () => {
    const shape = new BoxGeometry(1, 2, 3);
    const whole = volumeOf(documentOf(shape));
    const index = [...(shape.getIndex()?.array ?? [])];
    // All of it, and then a few of its triangles alone.
    for (const isAll of [true, false]) {
      const turned = index.slice();
      for (let at = 0; at < (isAll ? turned.length : 9); at += 3)
        [turned[at + 1], turned[at + 2]] = [index[at + 2] ?? 0, index[at + 1] ?? 0];
      const document = documentOf(new BoxGeometry(1, 2, 3).setIndex(turned));
      if (isAll) expect(volumeOf(document)).to.be.closeTo(-whole, 1e-6);
      const [note] = await mend(document, { facing: 'turned outwards' });
      expect(note).to.equal(`${isAll ? 12 : 3} triangles turned to face outwards`);
      expect(volumeOf(document)).to.be.closeTo(whole, 1e-6);
      // They looked outwards before, and do so still.
      const normals = elements(primitiveOf(document).getAttribute('NORMAL') ?? raise());
      const places = elements(primitiveOf(document).getAttribute('POSITION') ?? raise());
      for (let at = 0; at < normals.length; at += 3) {
        const along = [0, 1, 2].reduce((sum, k) => sum + (normals[at + k] ?? 0) * (places[at + k] ?? 0), 0);
        expect(along).to.be.above(0);
      }
    }
  });

  it('makes normals: those of a ball point away from its middle', async () => {
    const document = documentOf(new SphereGeometry(1, 32, 24), ['position']);
    expect(await mend(document, { normals: 'made where missing' })).to.deep.equal([
      'normals made for 1 part',
    ]);
    const normals = elements(primitiveOf(document).getAttribute('NORMAL') ?? raise());
    const places = elements(primitiveOf(document).getAttribute('POSITION') ?? raise());
    let worst = 1;
    for (let at = 0; at < normals.length; at += 3) {
      const along = [0, 1, 2].reduce((sum, k) => sum + (normals[at + k] ?? 0) * (places[at + k] ?? 0), 0);
      worst = Math.min(worst, along);
    }
    expect(worst).to.be.above(Math.cos((8 * Math.PI) / 180));
    expect(await mend(document, { normals: 'made where missing' })).to.deep.equal([]);
  });

  it('keeps hard edges hard: the sides of a box', async () => {
    const document = documentOf(new BoxGeometry(1, 1, 1), ['position']);
    await mend(document, { normals: 'made anew' });
    const normals = [...elements(primitiveOf(document).getAttribute('NORMAL') ?? raise())];
    const expected = [...(new BoxGeometry(1, 1, 1).getAttribute('normal').array as Float32Array)];
    normals.forEach((value, at) => expect(value).to.be.closeTo(expected[at] ?? NaN, 1e-6));
  });

  it('brings weights to fewer bones, which add up to one', async () => {
    const document = documentOf(new BoxGeometry(1, 1, 1));
    const primitive = primitiveOf(document);
    const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
    const set = (name: string, values: readonly number[]): void => {
      const array = name.startsWith('JOINTS') ? Uint16Array.from(values) : new Float32Array(values);
      primitive.setAttribute(name, document.createAccessor().setType('VEC4').setArray(array));
    };
    const repeat = (values: readonly number[]): number[] =>
      Array.from({ length: count }, () => values).flat();
    set('JOINTS_0', repeat([0, 1, 2, 3]));
    set('WEIGHTS_0', repeat([0.1, 0.1, 0.1, 0.2]));
    set('JOINTS_1', repeat([4, 5, 6, 7]));
    set('WEIGHTS_1', repeat([0.3, 0.1, 0.05, 0.05]));
    expect(await mend(document, { influences: '8' })).to.deep.equal([
      'weights of 0 parts brought to no more than 8 bones',
    ]);
    await mend(document, { influences: '4' });
    expect(primitive.listSemantics()).not.to.include('WEIGHTS_1');
    const weights = [...elements(primitive.getAttribute('WEIGHTS_0') ?? raise())].slice(0, 4);
    expect(weights.reduce((sum, one) => sum + one, 0)).to.be.closeTo(1, 1e-6);
    expect((primitive.getAttribute('JOINTS_0')?.getElement(0, []) ?? []).slice(0, 2)).to.deep.equal([4, 3]);
  });

  it('reduces to a number of triangles, and measures the loss', async () => {
    const document = documentOf(new SphereGeometry(1, 64, 48), ['position', 'normal', 'uv']);
    const [note = ''] = await mend(document, { mostTriangles: 1000 });
    const left = trianglesOf(document).reduce((sum, { indices }) => sum + indices.length / 3, 0);
    expect(left).to.be.within(800, 1000);
    const [, farthest = ''] = /([\d.e-]+) % at most/.exec(note) ?? [];
    // A ball of a thousand triangles is off by far less than a hundredth of its size.
    expect(Number(farthest)).to.be.within(0.01, 2);
    expect(await mend(document, { mostTriangles: 5000 })).to.deep.equal([
      `${left.toLocaleString('en')} triangles: no more than 5000 were asked for`,
    ]);
  });
});

function raise(): never {
  throw new Error('it has no such attribute');
}
