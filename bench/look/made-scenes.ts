import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Document, NodeIO } from '@gltf-transform/core';

/** A wavy sheet of so many triangles, with normals and texture coordinates. */
export function sheetDocument(triangles: number, lift = 1): Document {
  const side = Math.max(2, Math.round(Math.sqrt(triangles / 2)) + 1);
  const positions = new Float32Array(side * side * 3);
  const normals = new Float32Array(side * side * 3);
  const uvs = new Float32Array(side * side * 2);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const at = y * side + x;
      const [u, v] = [x / (side - 1), y / (side - 1)];
      positions.set([u * 2 - 1, Math.sin(u * 9) * Math.cos(v * 7) * 0.2 * lift, v * 2 - 1], at * 3);
      normals.set([0, 1, 0], at * 3);
      uvs.set([u, v], at * 2);
    }
  const indices = new Uint32Array((side - 1) * (side - 1) * 6);
  let next = 0;
  for (let y = 0; y + 1 < side; y++)
    for (let x = 0; x + 1 < side; x++) {
      const at = y * side + x;
      indices.set([at, at + side, at + 1, at + 1, at + side, at + side + 1], next);
      next += 6;
    }
  const document = new Document();
  const buffer = document.createBuffer();
  const list = (type: 'VEC3' | 'VEC2' | 'SCALAR', values: Float32Array | Uint32Array) =>
    document.createAccessor().setType(type).setArray(values).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', list('VEC3', positions))
    .setAttribute('NORMAL', list('VEC3', normals))
    .setAttribute('TEXCOORD_0', list('VEC2', uvs))
    .setIndices(list('SCALAR', indices))
    .setMaterial(document.createMaterial('sheet').setBaseColorFactor([0.3, 0.5, 0.4, 1]));
  const node = document.createNode('sheet').setMesh(document.createMesh('sheet').addPrimitive(primitive));
  document.createScene().addChild(node);
  return document;
}

/** A build to look at: one large model, a map, and a folder of models to go through. */
export async function writeScenes(
  folder: string,
  {
    triangles,
    placements,
    models,
    passed,
  }: { triangles: number; placements: number; models: number; passed: number },
): Promise<void> {
  const io = new NodeIO();
  for (const name of ['', 'props', 'many']) mkdirSync(join(folder, name), { recursive: true });
  writeFileSync(join(folder, 'large.glb'), await io.writeBinary(sheetDocument(triangles)));
  for (let at = 0; at < models; at++)
    writeFileSync(
      join(folder, 'props', `prop_${at}.glb`),
      await io.writeBinary(sheetDocument(100 + (at % 7) * 100, 1 + at / models)),
    );
  for (let at = 0; at < passed; at++)
    writeFileSync(
      join(folder, 'many', `thing_${String(at).padStart(3, '0')}.glb`),
      await io.writeBinary(sheetDocument(2000, 1 + at / passed)),
    );
  const across = Math.ceil(Math.sqrt(placements));
  const placed = Array.from({ length: placements }, (_, at) => ({
    ...{ id: `p${at}`, model: `props/prop_${at % models}`, class: `class_${at % 5}` },
    position: [(at % across) * 5, 0, Math.floor(at / across) * 5],
  }));
  writeFileSync(join(folder, 'field.json'), JSON.stringify({ placements: placed }));
}
