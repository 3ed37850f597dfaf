import { Document, NodeIO } from '@gltf-transform/core';
import { expect } from 'chai';
import type { Placement } from '../../contract/facts.ts';
import { nodePlatform } from '../../server/decode/platform.ts';
import { drawMap } from './map-picture.ts';

/** A square that lies flat, of one colour in linear light. */
async function square(colour: [number, number, number]): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const list = (type: 'SCALAR' | 'VEC3', values: Float32Array | Uint16Array) =>
    document.createAccessor().setType(type).setArray(values).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', list('VEC3', new Float32Array([-1, 0, -1, 1, 0, -1, 1, 0, 1, -1, 0, 1])))
    .setIndices(list('SCALAR', new Uint16Array([0, 2, 1, 0, 3, 2])))
    .setMaterial(document.createMaterial('').setBaseColorFactor([...colour, 1]));
  document
    .createScene()
    .addChild(document.createNode().setMesh(document.createMesh().addPrimitive(primitive)));
  return new NodeIO().writeBinary(document);
}

const placed = (model: string, x: number, z: number): Placement => ({
  ...{ id: `${model} ${x} ${z}`, model, class: 'prop', name: '', locator: '' },
  ...{ position: [x, 0, z], rotation: [0, 0, 0, 1], scale: [1, 1, 1] },
});

describe('drawMap', () => {
  const asked: string[] = [];
  const request = (files: Record<string, Uint8Array>) => ({
    ...{ size: 0, path: 'map.json', platform: nodePlatform, part: () => new Uint8Array(0) },
    raster: () => Promise.reject(new Error('no picture')),
    resolve: (reference: string) => {
      asked.push(reference);
      return Promise.resolve(files[reference] ?? null);
    },
  });
  beforeEach(() => asked.splice(0));

  /** Which of red, green and blue is most, by pixels that are covered. */
  const coloursOf = (rgba: Uint8Array): number[] => {
    const counts = [0, 0, 0];
    for (let at = 0; at < rgba.length; at += 4) {
      if ((rgba[at + 3] ?? 0) < 255) continue;
      const most = [0, 1, 2].reduce((best, one) =>
        (rgba[at + one] ?? 0) > (rgba[at + best] ?? 0) ? one : best,
      );
      counts[most] = (counts[most] ?? 0) + 1;
    }
    return counts;
  };

  it('draws models where they stand, each file opened once, in their colours', async () => {
    const files = { green: await square([0, 0.8, 0]), blue: await square([0, 0, 0.8]) };
    const placements = [...[0, 1, 2, 3].map((at) => placed('green', at * 4, 0)), placed('blue', 0, 12)];
    const raster = await drawMap(placements, request(files));
    const [red = 0, green = 0, blue = 0] = coloursOf(raster?.rgba ?? new Uint8Array());
    expect(red).to.equal(0);
    expect(blue).to.be.above(50);
    // Four of them cover four times as much.
    expect(green / blue).to.be.within(3.6, 4.4);
    expect(asked).to.deep.equal(['green', 'blue']);
  });

  it('marks what the build lacks, and what cannot be read, by small boxes of another colour', async () => {
    const files = { green: await square([0, 0.8, 0]), broken: new Uint8Array([1, 2, 3]) };
    const raster = await drawMap(
      [placed('green', 0, 0), placed('gone', 6, 0), placed('broken', 0, 6)],
      request(files),
    );
    const [red = 0, green = 0] = coloursOf(raster?.rgba ?? new Uint8Array());
    expect(red).to.be.above(50);
    expect(green).to.be.above(50);
  });

  it('draws nothing where no model is there: a plan stands for the map then', async () => {
    expect(await drawMap([placed('gone', 0, 0)], request({}))).to.equal(null);
    expect(await drawMap([], request({}))).to.equal(null);
  });

  it('opens no more than the models that stand most often, and goes on by boxes', async () => {
    const files: Record<string, Uint8Array> = {};
    const one = await square([0, 0.8, 0]);
    const placements = Array.from({ length: 90 }, (_, at) => placed(`m${at}`, at * 3, 0));
    for (const { model } of placements) files[model] = one;
    const raster = await drawMap([...placements, placed('m89', 0, 9)], request(files));
    expect(asked).to.have.length(40);
    expect(asked[0]).to.equal('m89');
    expect(raster).not.to.equal(null);
  });
});
