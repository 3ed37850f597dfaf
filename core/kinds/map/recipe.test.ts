import { expect } from 'chai';
import { Euler, Matrix4, Quaternion as ThreeQuaternion, Vector3 } from 'three';
import { seeded } from '../../../demo/seeded.ts';
import { eulerOrderSchema, placementRecipeSchema, type PlacementRecipe } from '../../../contract/recipes.ts';
import { placementsByRecipe } from './recipe.ts';
import { ofEuler } from './rotation.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const recipe = (given: object): PlacementRecipe =>
  placementRecipeSchema.parse({
    name: 'a',
    files: '*',
    form: 'json',
    model: 'model',
    position: ['pos'],
    ...given,
  });
const row = { model: 'lamp', id: 7, pos: [100, 200, 300], rot: { x: 0, y: 0, z: 90 }, scale: '2' };

describe('placement recipes', () => {
  it('read the same placements from JSON, CSV, XML and binary', () => {
    const more = { id: 'id', scale: ['scale'], rotation: { sort: 'euler', fields: ['rot'] } };
    const json = placementsByRecipe(
      bytes(JSON.stringify({ map: { things: [row] } })),
      recipe({ rows: 'map.things', ...more }),
    );
    const csv = placementsByRecipe(
      bytes('model;id;x;y;z;rx;ry;rz;s\nlamp;7;100;200;300;0;0;90;2\n'),
      recipe({
        form: 'csv',
        id: 'id',
        position: ['x', 'y', 'z'],
        scale: ['9'],
        rotation: { sort: 'euler', fields: ['rx', 'ry', 'rz'] },
      }),
    );
    const xml = placementsByRecipe(
      bytes(
        '<map><set><thing model="lamp"><id>7</id><pos x="100" y="200" z="300"/><rot>0 0 90</rot><s v="2"/></thing></set></map>',
      ),
      recipe({
        form: 'xml',
        rows: 'map/set/thing',
        model: '@model',
        id: 'id',
        position: ['pos'],
        scale: ['s/@v'],
        rotation: { sort: 'euler', fields: ['rot'] },
      }),
    );
    const table = Buffer.alloc(8 + 48);
    table.writeUInt32BE(1, 4);
    table.write('lamp\0junk', 8, 'latin1');
    table.writeUInt16BE(7, 8 + 12);
    [100, 200, 300, 0, 0, 90].forEach((value, at) => table.writeFloatBE(value, 8 + 16 + at * 4));
    table.writeUInt8(2, 8 + 40);
    const binary = placementsByRecipe(
      table,
      recipe({
        form: 'binary',
        binary: { headBytes: 8, rowBytes: 48, count: '4:u32', isBigEndian: true },
        model: '0:text12',
        id: '12:u16',
        position: ['16:f32*3'],
        scale: ['40:u8'],
        rotation: { sort: 'euler', fields: ['28:f32', '32:f32', '36:f32'] },
      }),
    );
    expect(json.placements[0]).to.deep.include({
      id: '7',
      model: 'lamp',
      position: [100, 200, 300],
      scale: [2, 2, 2],
    });
    expect(json.placements[0]?.rotation.map((value) => Math.round(value * 1e6) / 1e6)).to.deep.equal([
      0, 0, 0.707107, 0.707107,
    ]);
    for (const other of [csv, xml, binary]) expect(other).to.deep.equal(json);
  });

  it('turn by Euler angles as three does, in every order (an independent library)', () => {
    const random = seeded(11);
    for (const order of eulerOrderSchema.options)
      for (let round = 0; round < 40; round++) {
        const angles: [number, number, number] = [random() * 7 - 3, random() * 7 - 3, random() * 7 - 3];
        const theirs = new ThreeQuaternion().setFromEuler(new Euler(...angles, order)).toArray();
        ofEuler(angles, order).forEach((value, at) => expect(value).to.be.closeTo(theirs[at] ?? NaN, 1e-12));
      }
  });

  it('bring Z up to Y up by a turn of -90 degrees about X, and centimetres to metres by 0.01 (common practice)', () => {
    const random = seeded(12);
    const turn = new Matrix4().makeRotationX(-Math.PI / 2);
    for (let round = 0; round < 40; round++) {
      const pos = [random() * 500, random() * 500, random() * 500];
      const angles: [number, number, number] = [random() * 6, random() * 6, random() * 6];
      const scale = [1 + random(), 1 + random(), 1 + random()];
      const [placement] = placementsByRecipe(
        bytes(JSON.stringify([{ model: 'a', pos, rot: angles, scale }])),
        recipe({
          scale: ['scale'],
          rotation: { sort: 'euler', fields: ['rot'], order: 'ZYX', unit: 'radians' },
          metresPerUnit: 0.01,
          up: 'Z',
        }),
      ).placements;
      if (!placement) throw new Error('no placement');
      // A point of the model, brought to Y up before it is placed or after: the same place.
      const theirs = new Matrix4().compose(
        new Vector3(...pos).multiplyScalar(0.01),
        new ThreeQuaternion().setFromEuler(new Euler(...angles, 'ZYX')),
        new Vector3(...(scale as [number, number, number])),
      );
      const ours = new Matrix4().compose(
        new Vector3(...placement.position),
        new ThreeQuaternion(...placement.rotation),
        new Vector3(...placement.scale),
      );
      const point = new Vector3(random(), random(), random());
      const expected = point.clone().applyMatrix4(theirs).applyMatrix4(turn);
      const found = point.clone().applyMatrix4(turn).applyMatrix4(ours);
      expect(found.distanceTo(expected)).to.be.lessThan(1e-9);
    }
  });

  it('take quaternions in either order, of any length', () => {
    const read = (rot: number[], quaternion: string) =>
      placementsByRecipe(
        bytes(JSON.stringify([{ model: 'a', pos: [0, 0, 0], rot }])),
        recipe({ rotation: { sort: 'quaternion', fields: ['rot'], quaternion } }),
      ).placements[0]?.rotation;
    expect(read([0, 0, 3, 4], 'xyzw')).to.deep.equal([0, 0, 0.6, 0.8]);
    expect(read([4, 0, 0, 3], 'wxyz')).to.deep.equal([0, 0, 0.6, 0.8]);
    expect(read([0, 0, 0, 0], 'xyzw')).to.deep.equal([0, 0, 0, 1]);
  });

  it('find rows of lists, of objects by their names, and of each of many', () => {
    const count = (value: unknown, rows: string): number =>
      placementsByRecipe(bytes(JSON.stringify(value)), recipe({ rows })).placements.length;
    expect(count([row, row], '')).to.equal(2);
    expect(count({ a: row, b: row }, '')).to.equal(2);
    expect(count({ rooms: [{ things: [row] }, { things: [row, row] }] }, 'rooms.*.things')).to.equal(3);
    expect(
      placementsByRecipe(bytes(JSON.stringify([{ model: 'a', pos: { X: 1, Y: 2, Z: 3 } }])), recipe({}))
        .placements[0]?.position,
    ).to.deep.equal([1, 2, 3]);
  });

  it('leave out rows that do not fit, with a reason, and go on', () => {
    const outcome = placementsByRecipe(
      bytes(
        JSON.stringify([
          row,
          { model: '', pos: [0, 0, 0] },
          { model: 'a', pos: [1, 2] },
          { model: 'a', pos: [1, 'x', 3] },
          { model: 'a' },
          row,
        ]),
      ),
      recipe({}),
    );
    expect(outcome).to.include({ rows: 6, faultCount: 4 });
    expect(outcome.placements).to.have.length(2);
    expect(outcome.faults).to.deep.equal([
      'row 2: no model at “model”',
      'row 3: position: 3 numbers were expected, there are 2',
      'row 4: position: “x” is no number',
      'row 5: no position at “pos”',
    ]);
  });

  it('say what was expected where nothing can be read', () => {
    const fails = (data: Uint8Array, given: object, message: RegExp): void => {
      expect(() => placementsByRecipe(data, recipe(given))).to.throw(message);
    };
    fails(bytes('{"a":{"b":1}}'), { rows: 'a.c' }, /“a.c” is not there; there are b/);
    fails(bytes('{"a":1}'), { rows: '' }, /holds no rows/);
    fails(bytes('{'), {}, /not valid JSON/);
    fails(bytes('<a><b></a>'), { form: 'xml', rows: 'a' }, /not valid XML: line 1/);
    fails(bytes('<a><b/></a>'), { form: 'xml', rows: 'a/c' }, /no element a\/c; there are b/);
    fails(bytes('x;y\n'), { form: 'csv' }, /no row below/);
    fails(
      new Uint8Array(20),
      { form: 'binary', binary: { headBytes: 8, rowBytes: 16 } },
      /no row of 16 bytes/,
    );
    const says = new Uint8Array(40);
    says[0] = 200;
    fails(
      says,
      { form: 'binary', binary: { headBytes: 8, rowBytes: 16, count: '0:u32' } },
      /200 rows of 16 bytes, and there is room for 2/,
    );
  });
});
