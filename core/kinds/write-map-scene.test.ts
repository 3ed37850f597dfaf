import { Document, NodeIO } from '@gltf-transform/core';
import { expect } from 'chai';
import type { Placement } from '../../contract/facts.ts';
import { fileOf, writeBytes } from '../../tests/support/write.ts';
import { placementsAsJson } from './map/write/placements.ts';

async function triangle(name: string): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const places = document
    .createAccessor()
    .setType('VEC3')
    .setArray(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]))
    .setBuffer(buffer);
  const primitive = document.createPrimitive().setAttribute('POSITION', places);
  document
    .createScene()
    .addChild(document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive)));
  return new NodeIO().writeBinary(document);
}

const placed = (id: string, of: string, model: string): Placement => ({
  ...{ id, model, class: of, name: '', locator: '' },
  ...{ position: [Number(id), 0, 2], rotation: [0, 0, 0, 1], scale: [1, 1, 1] },
});

/** Names of meshes, and of classes with how many placements hang on them. */
async function look(glb: Uint8Array): Promise<{ meshes: string[]; classes: Record<string, number> }> {
  const root = (await new NodeIO().readBinary(glb)).getRoot();
  const groups = root.listScenes()[0]?.listChildren() ?? [];
  return {
    meshes: root.listMeshes().map((mesh) => mesh.getName()),
    classes: Object.fromEntries(groups.map((group) => [group.getName(), group.listChildren().length])),
  };
}

describe('Maps as scenes', () => {
  const bytes = placementsAsJson([
    placed('1', 'lamp', 'lamp.glb'),
    placed('2', 'lamp', 'lamp.glb'),
    placed('3', 'Zone/in', ''),
    placed('4', 'boat', 'boat.glb'),
    placed('5', 'boat', 'gone.glb'),
  ]);
  const write = async (scenes: 'one' | 'by class') => {
    const models: Record<string, Uint8Array> = {
      'lamp.glb': await triangle('lamp'),
      'boat.glb': await triangle('boat'),
    };
    return writeBytes(bytes, 'pier.map.json', {
      kind: 'map',
      settings: { maps: { as: 'glb', scenes } },
      resolve: (reference) => Promise.resolve(models[reference] ?? null),
    });
  };

  it('share the meshes of their models, and say what is not there', async () => {
    const written = await write('one');
    expect(await look(fileOf(written, '.glb'))).to.deep.equal({
      meshes: ['lamp', 'boat'],
      classes: { lamp: 2, 'Zone/in': 1, boat: 2 },
    });
    expect(written.notes).to.deep.equal(['gone.glb is not there']);
    expect(written.proof.verdict).to.equal('the same');
  });

  it('are a file for each class, with what that class needs and no more', async () => {
    const written = await write('by class');
    expect(written.files.map(({ ending }) => ending)).to.deep.equal([
      ...['.classes/Zone-in.glb', '.classes/boat.glb', '.classes/lamp.glb'],
    ]);
    expect(await look(fileOf(written, '.classes/lamp.glb'))).to.deep.equal({
      meshes: ['lamp'],
      classes: { lamp: 2 },
    });
    expect(await look(fileOf(written, '.classes/boat.glb'))).to.deep.equal({
      meshes: ['boat'],
      classes: { boat: 2 },
    });
    expect(written.proof.verdict).to.equal('the same');
  });
});
