import { Document, WebIO, type Node } from '@gltf-transform/core';
import type { Shape } from '../shapes.ts';

/** A part of a model: a shape in a material that is called as a set of textures. */
export interface GrownPart {
  name: string;
  shape: Shape;
  material: string;
  /** Linear RGB; what is seen where no texture is. */
  colour: readonly [number, number, number];
}

/** A place that a game looks up by its name. */
export interface Locator {
  name: string;
  /** Metres. */
  at: readonly [number, number, number];
}

const io = new WebIO();

/** A document with a scene and a buffer. */
export function newDocument(name: string): Document {
  const document = new Document();
  document.createBuffer();
  document.createScene(name);
  return document;
}

/** Materials of one name are one. */
export function materialOf(document: Document, { material, colour }: Pick<GrownPart, 'material' | 'colour'>) {
  const known = document
    .getRoot()
    .listMaterials()
    .find((one) => one.getName() === material);
  return (
    known ??
    document
      .createMaterial(material)
      .setBaseColorFactor([...colour, 1])
      .setRoughnessFactor(0.8)
      .setMetallicFactor(0)
      .setDoubleSided(true)
  );
}

export function primitiveOf(document: Document, part: Omit<GrownPart, 'name'>) {
  const buffer = document.getRoot().listBuffers()[0] ?? null;
  const list = (type: 'VEC2' | 'VEC3', values: readonly number[]) =>
    document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
  const { positions, normals, uvs, indices } = part.shape;
  const isLarge = positions.length / 3 > 65_535;
  return document
    .createPrimitive()
    .setAttribute('POSITION', list('VEC3', positions))
    .setAttribute('NORMAL', list('VEC3', normals))
    .setAttribute('TEXCOORD_0', list('VEC2', uvs))
    .setIndices(
      document
        .createAccessor()
        .setType('SCALAR')
        .setArray(isLarge ? new Uint32Array(indices) : new Uint16Array(indices))
        .setBuffer(buffer),
    )
    .setMaterial(materialOf(document, part));
}

/** One GLB of parts below one node, with places that the game looks up. */
export async function sceneOf(
  name: string,
  parts: readonly GrownPart[],
  locators: readonly Locator[] = [],
): Promise<Uint8Array> {
  const document = newDocument(name);
  const root: Node = document.createNode(name);
  document.getRoot().listScenes()[0]?.addChild(root);
  for (const part of parts)
    root.addChild(
      document
        .createNode(part.name)
        .setMesh(document.createMesh(part.name).addPrimitive(primitiveOf(document, part))),
    );
  for (const { name: called, at } of locators)
    root.addChild(document.createNode(called).setTranslation([...at]));
  return io.writeBinary(document);
}

export function writeDocument(document: Document): Promise<Uint8Array> {
  return io.writeBinary(document);
}
