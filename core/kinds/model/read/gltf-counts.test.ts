import { expect } from 'chai';
import type { JSONDocument } from '@gltf-transform/core';
import { ReadError } from '../../reading.ts';
import { checkCounts } from './gltf-counts.ts';

/** A model of one buffer of so many bytes. */
const documentOf = (bytes: number, json: object): JSONDocument => ({
  json: { asset: { version: '2.0' }, buffers: [{ byteLength: bytes }], ...json },
  resources: { '@glb.bin': new Uint8Array(bytes) },
});
const view = (byteLength: number, more: object = {}): object => ({ buffer: 0, byteLength, ...more });
const accessor = (count: number, more: object = {}): object => ({
  count,
  type: 'VEC3',
  componentType: 5126,
  ...more,
});
const problemOf = (document: JSONDocument, fileBytes = 500): string => {
  try {
    checkCounts(document, fileBytes);
  } catch (error) {
    expect(error).to.be.instanceOf(ReadError);
    return (error as Error).message;
  }
  return '';
};

describe('What a glTF model promises', () => {
  it('is taken where the bytes are there', () => {
    const accessors = [accessor(10, { bufferView: 0 }), accessor(2, { bufferView: 0, byteOffset: 96 })];
    expect(problemOf(documentOf(120, { bufferViews: [view(120)], accessors }))).to.equal('');
    const strided = [accessor(4, { bufferView: 0 })];
    expect(
      problemOf(documentOf(84, { bufferViews: [view(84, { byteStride: 24 })], accessors: strided })),
    ).to.equal('');
  });

  it('is refused where elements, views or sparse values are not there', () => {
    const one = { bufferViews: [view(120)] };
    expect(problemOf(documentOf(120, { ...one, accessors: [accessor(11, { bufferView: 0 })] }))).to.equal(
      'its accessor 0 promises 11 elements, which take 132 bytes, and its buffer view has 120',
    );
    expect(problemOf(documentOf(100, one))).to.equal(
      'its buffer view 0 promises 120 bytes at 0, and its buffer has 100',
    );
    const sparse = {
      count: 100,
      indices: { bufferView: 0, componentType: 5123 },
      values: { bufferView: 0 },
    };
    expect(problemOf(documentOf(120, { ...one, accessors: [accessor(100, { sparse })] }))).to.match(
      /promises 100 sparse values, more than are there/,
    );
    expect(problemOf(documentOf(120, { ...one, accessors: [accessor(50, { sparse })] }))).to.match(
      /promises 100 sparse values of 50/,
    );
  });

  it('is refused where zeros alone would fill the memory, one by one or together', () => {
    expect(problemOf(documentOf(0, { accessors: [accessor(500_000_000)] }))).to.match(
      /^its accessors promise more than 17,277,216 bytes of data, and the file has 500$/,
    );
    const many = Array.from({ length: 1000 }, () => accessor(10_000));
    expect(problemOf(documentOf(0, { accessors: many }))).to.match(/promise more than/);
    expect(problemOf(documentOf(0, { accessors: [accessor(10_000)] }))).to.equal('');
  });

  it('is refused where a count is no count', () => {
    for (const count of [-1, 1.5, Number.NaN, 1e300, '7', null])
      expect(problemOf(documentOf(0, { accessors: [accessor(count as number)] })), String(count)).to.match(
        /^its accessor 0 promises /,
      );
  });

  it('is refused where packed views promise more than packing gives', () => {
    const packed = { EXT_meshopt_compression: { buffer: 0, byteLength: 40, byteStride: 12, count: 1 } };
    const document = documentOf(40, { bufferViews: [view(2 ** 31, { extensions: packed })] });
    expect(problemOf(document)).to.equal('its buffer view 0 promises to unpack to 2147483648 bytes');
    const fair = documentOf(40, { bufferViews: [view(1200, { extensions: packed })] });
    expect(problemOf(fair)).to.equal('');
  });
});
