import { expect } from 'chai';
import type { MapScene, ModelCost } from '../../../contract/assets.ts';
import { placementSchema } from '../../../contract/facts.ts';
import { costOf } from './cost.ts';
import { nearFirst } from './near-first.ts';

const place = (id: string, model: string) => placementSchema.parse({ id, model, position: [0, 0, 0] });
const cost = (triangles: number): ModelCost => ({
  ...{ bytes: 1000, triangles, vertices: triangles * 2, materials: 2, textures: 1, bounds: null },
});

describe('What a map costs', () => {
  it('counts what is drawn as often as it stands, and what is fetched once', () => {
    const scene: MapScene = {
      placements: [
        place('1', 'reed'),
        place('2', 'reed'),
        place('3', 'Reed'),
        place('4', 'hut'),
        place('5', 'gone'),
      ],
      models: { reed: 'a/reed.glb', Reed: 'a/reed.glb', hut: 'hut.glb', gone: null },
      grounds: { heights: [], pictures: [] },
      costs: { 'a/reed.glb': cost(100) },
    };
    expect(costOf(scene)).to.deep.equal({
      ...{ placements: 5, models: 2, missing: 1, unread: 1, triangles: 300, materials: 2, textures: 1 },
      ...{ fetchBytes: 1000, holdBytes: 5 * 64 + 200 * 32 + 100 * 12 },
    });
  });
});

describe('What is drawn as it is', () => {
  it('is what looks largest, as long as the budget lasts', () => {
    // Large and far, small and near, large and near but costly, tiny and far, unknown.
    const radii = Float32Array.of(10, 1, 10, 0.1, 5);
    const distances = Float32Array.of(100, 5, 20, 500, 10);
    const triangles = [400, 300, 5000, 10, NaN];
    const chosen = (budget: number): number[] => [
      ...nearFirst(radii, distances, (at) => triangles[at] ?? NaN, budget),
    ];
    expect(chosen(10_000)).to.deep.equal([2, 1, 0]);
    expect(chosen(1000)).to.deep.equal([1, 0]);
    expect(chosen(350)).to.deep.equal([1]);
    expect(chosen(0)).to.deep.equal([]);
  });
});
