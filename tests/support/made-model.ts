import { Document, NodeIO, type Primitive } from '@gltf-transform/core';
import { KHRMaterialsClearcoat } from '@gltf-transform/extensions';
import { SphereGeometry, type BufferGeometry } from 'three';
import type { Comparison, ModelDetail } from '../../contract/comparisons.ts';
import { compareBytes } from './compare.ts';

export interface Made {
  document: Document;
  primitive: Primitive;
  vertices: number;
  array: (semantic: string) => Float32Array;
}

/** One part with places, normals and UVs, with a material; changed before it is written. */
export async function made(
  change: (made: Made) => void | Promise<void> = () => undefined,
  geometry: BufferGeometry = new SphereGeometry(1, 48, 24),
): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const accessor = (type: 'VEC2' | 'VEC3', name: string) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(new Float32Array(geometry.getAttribute(name).array))
      .setBuffer(buffer);
  const index = geometry.getIndex();
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', 'position'))
    .setAttribute('NORMAL', accessor('VEC3', 'normal'))
    .setAttribute('TEXCOORD_0', accessor('VEC2', 'uv'))
    .setMaterial(document.createMaterial('wood').setBaseColorFactor([0.5, 0.3, 0.1, 1]));
  if (index)
    primitive.setIndices(
      document.createAccessor().setType('SCALAR').setArray(new Uint32Array(index.array)).setBuffer(buffer),
    );
  document
    .createScene()
    .addChild(document.createNode('barrel').setMesh(document.createMesh('barrel').addPrimitive(primitive)));
  const array = (semantic: string): Float32Array =>
    primitive.getAttribute(semantic)?.getArray() as Float32Array;
  await change({ document, primitive, vertices: array('POSITION').length / 3, array });
  return new NodeIO().registerExtensions([KHRMaterialsClearcoat]).writeBinary(document);
}

/** Compares two models; what comes out has a model's detail. */
export async function compared(
  old: Uint8Array,
  now: Uint8Array,
  path = 'a.glb',
): Promise<Comparison & { model: ModelDetail }> {
  const comparison = await compareBytes({ bytes: old, path }, { bytes: now, path });
  if (comparison.detail?.kind !== 'model') throw new Error('no detail of a model');
  return { ...comparison, model: comparison.detail };
}
