import { expect } from 'chai';
import type { ReadRequest } from '../reading.ts';
import { placementsOf } from './placements.ts';
import { readMap } from './read.ts';

const table = (units: string) => ({
  units,
  placements: [
    { id: 'a', model: 'lamp', class: 'light', position: [100, 0, -50] },
    { id: 'b', model: 'lamp', position: [300, 20, 150] },
  ],
});
const read = (value: unknown) =>
  readMap({ bytes: new TextEncoder().encode(JSON.stringify(value)), path: 'm.json' } as ReadRequest);

describe('readMap', () => {
  it('counts placements by class, names each model once, and spans them in metres', async () => {
    const { facts, preview } = await read(table('centimetres'));
    expect(facts).to.deep.include({
      placements: 2,
      classes: { light: 1, object: 1 },
      models: ['lamp'],
      boundsMetres: { min: [1, 0, -0.5], max: [3, 0.2, 1.5] },
    });
    expect(preview?.rgba.some((value) => value > 0)).to.equal(true);
  });

  it('takes centimetres as hundredths of a metre (common practice), and metres as they are', () => {
    expect(placementsOf(table('centimetres'))[1]?.position).to.deep.equal([3, 0.2, 1.5]);
    expect(placementsOf(table('metres'))[1]?.position).to.deep.equal([300, 20, 150]);
    expect(placementsOf(table('metres'))[0]).to.deep.include({ rotation: [0, 0, 0, 1], scale: [1, 1, 1] });
  });

  it('names the field that does not fit', () => {
    expect(() => placementsOf({ placements: [{ id: 'a', model: 'x', position: [1, 2] }] })).to.throw(
      /placements\.0\.position/,
    );
  });
});
