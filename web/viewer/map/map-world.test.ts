import { expect } from 'chai';
import { NodeIO, Document } from '@gltf-transform/core';
import { InstancedMesh, LineSegments, Vector3, type Object3D } from 'three';
import type { MapScene } from '../../../contract/assets.ts';
import { placementSchema } from '../../../contract/facts.ts';
import { MapWorld, type WorldState } from './map-world.ts';

/** One triangle, as an address. */
async function triangle(): Promise<string> {
  const document = new Document();
  const positions = document
    .createAccessor()
    .setType('VEC3')
    .setArray(new Float32Array([0, 0, 0, 1, 0, 0, 0, 2, 0]))
    .setBuffer(document.createBuffer());
  const mesh = document
    .createMesh('leaf')
    .addPrimitive(document.createPrimitive().setAttribute('POSITION', positions));
  document.createScene().addChild(document.createNode('leaf').setMesh(mesh));
  const bytes = await new NodeIO().writeBinary(document);
  return `data:model/gltf-binary;base64,${Buffer.from(bytes).toString('base64')}`;
}

const place = (id: string, model: string, x: number, group = 'plant') =>
  placementSchema.parse({ id, model, class: group, position: [x, 0, 0] });
const map: MapScene = {
  placements: [
    place('near', 'reed', 0),
    place('far', 'reed', 900),
    place('lost', 'gone', 5),
    place('room', '', 3, 'trigger zone'),
  ],
  models: { reed: 'reed.glb', gone: null, '': null },
  grounds: { heights: [], pictures: [] },
  costs: {
    'reed.glb': {
      ...{ bytes: 500, triangles: 1, vertices: 3, materials: 0, textures: 0 },
      bounds: { min: [0, 0, 0], max: [1, 2, 0] },
    },
  },
};

describe('A map in space', () => {
  const until = async (world: MapWorld, holds: (state: WorldState) => boolean): Promise<WorldState> =>
    new Promise((resolve, reject) => {
      const timer = setTimeout(() => reject(new Error('it never came so far')), 5000);
      world.onState = (state) => {
        if (!holds(state)) return;
        clearTimeout(timer);
        resolve(state);
      };
    });
  const drawn = (world: MapWorld): [Object3D, string[]][] => {
    const found: [Object3D, string[]][] = [];
    world.scene.traverse((object) => {
      if (!(object instanceof InstancedMesh) || !object.visible) return;
      const ids = Array.from({ length: object.count }, (_, at) => world.placementAt(object, at)?.id ?? '?');
      if (ids.length > 0) found.push([object, ids]);
    });
    return found;
  };

  const one = { triangles: 1, bytes: 1e6 };

  it('has boxes of true size at first, then models for what is near, as far as the budget goes', async () => {
    const address = await triangle();
    const world = new MapWorld(map, { box: '#888888', missing: '#aa3311' }, () => [address]);
    // Boxes of one class that look alike are one draw: those that are there, those that are missing, those that are room.
    expect(drawn(world).map(([, ids]) => ids)).to.deep.equal([['near', 'far'], ['lost'], ['room']]);
    expect(
      world
        .boxOf(map.placements[1] ?? place('', '', 0))
        .getSize(new Vector3())
        .toArray(),
    ).to.deep.equal([1, 2, 0]);
    const loaded = until(world, ({ loaded: count, detailed }) => count === 1 && detailed > 0);
    world.update(new Vector3(0, 1, 5));
    world.setShown(new Set(), one);
    const state = await loaded;
    expect([state.detailed, state.isFull, state.failures]).to.deep.equal([1, true, []]);
    expect(drawn(world).map(([, ids]) => ids)).to.deep.equal([['far'], ['lost'], ['room'], ['near']]);
    // Somebody goes to the other end: there is room for one, and it is that one now.
    world.update(new Vector3(900, 1, 5));
    expect(drawn(world).map(([, ids]) => ids)).to.deep.equal([['near'], ['lost'], ['room'], ['far']]);
    world.setShown(new Set(['plant']), one);
    expect(drawn(world).map(([, ids]) => ids)).to.deep.equal([['room']]);
    const edges = (): boolean[] => {
      const found: boolean[] = [];
      world.scene.traverse((object) => object instanceof LineSegments && found.push(object.visible));
      return found;
    };
    expect(edges()).to.deep.equal([true]);
    world.setShown(new Set(['trigger zone']), one);
    expect(edges()).to.deep.equal([false]);
    world.close();
  });

  it('says why a model cannot be shown, and has a box in its place', async () => {
    const world = new MapWorld(map, { box: '#888888', missing: '#aa3311' }, () => [
      'data:,nothing',
      'data:,more',
    ]);
    const failed = until(world, ({ failures }) => failures.length > 0);
    world.setShown(new Set(), { triangles: 100, bytes: 1e6 });
    expect((await failed).failures[0]).to.match(/^reed\.glb: /);
    expect(drawn(world).map(([, ids]) => ids)).to.deep.equal([['near', 'far'], ['lost'], ['room']]);
    world.close();
  });
});
