import { Document, WebIO } from '@gltf-transform/core';
import { expect } from 'chai';
import { hasCorners, plainCorners } from './plain-gltf.ts';

/** A square of two triangles with UVs beside its places, and a triangle without indices. */
function made(): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const places = Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0.25, 0, 1, -0.5);
  const accessor = (array: Float32Array | Uint16Array, type: 'VEC2' | 'VEC3' | 'SCALAR') =>
    document.createAccessor().setArray(array).setType(type).setBuffer(buffer);
  const square = document
    .createPrimitive()
    .setAttribute('POSITION', accessor(places, 'VEC3'))
    .setAttribute('TEXCOORD_0', accessor(new Float32Array(8), 'VEC2'))
    .setIndices(accessor(Uint16Array.of(0, 1, 2, 0, 2, 3), 'SCALAR'));
  const plain = document.createPrimitive().setAttribute('POSITION', accessor(places.slice(0, 9), 'VEC3'));
  const mesh = document.createMesh('square').addPrimitive(square).addPrimitive(plain);
  document.createScene().addChild(document.createNode('square').setMesh(mesh));
  return document;
}

const none = (): undefined => undefined;

describe('A second reader of glTF', () => {
  it('finds the corners that were written, in a GLB and in a glTF with files', async () => {
    const io = new WebIO();
    const glb = await io.writeBinary(made());
    const corners = plainCorners(glb, none);
    expect(corners.map((one) => one?.length)).to.deep.equal([18, 9]);
    // The third corner of the second triangle: the fourth vertex.
    expect([...(corners[0] ?? [])].slice(15)).to.deep.equal([0, 1, -0.5]);
    expect(hasCorners(await io.readBinary(glb), corners)).to.equal(true);
    const { json, resources } = await io.writeJSON(made());
    const text = new TextEncoder().encode(JSON.stringify(json));
    expect(plainCorners(text, (name) => resources[name])).to.deep.equal(corners);
  });

  it('tells a bit that is another one, and a primitive that is missing', async () => {
    const io = new WebIO();
    const glb = await io.writeBinary(made());
    const document = await io.readBinary(glb);
    const corners = plainCorners(glb, none);
    expect(hasCorners(document, corners.slice(1))).to.equal(false);
    const changed = corners[0]?.slice() ?? new Float32Array(0);
    changed[4] = 1e-30;
    expect(hasCorners(document, [changed, corners[1] ?? null])).to.equal(false);
  });

  it('says what goes on beyond its end', async () => {
    const glb = await new WebIO().writeBinary(made());
    expect(() => plainCorners(glb.subarray(0, glb.length - 4), none)).to.throw(
      RangeError,
      'another one than it says',
    );
    const long = glb.slice();
    new DataView(long.buffer).setUint32(12, 0xffff, true);
    expect(() => plainCorners(long, none)).to.throw(RangeError, 'a chunk goes on beyond its end');
    const text = (length: number): Uint8Array =>
      new TextEncoder().encode(
        JSON.stringify({
          buffers: [{ byteLength: 12, uri: 'a.bin' }],
          bufferViews: [{ buffer: 0, byteLength: length }],
          accessors: [{ bufferView: 0, componentType: 5126, count: 1, type: 'VEC3' }],
          meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
        }),
      );
    expect(plainCorners(text(12), () => new Uint8Array(12))).to.deep.equal([new Float32Array(3)]);
    expect(() => plainCorners(text(13), () => new Uint8Array(12))).to.throw(
      RangeError,
      'a view goes on beyond its buffer',
    );
  });
});
