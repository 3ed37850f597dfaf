import { expect } from 'chai';
import { heightField, heightOf, isles } from '../../../../demo/grown/land.ts';
import { mapOf } from '../../../../demo/grown/maps.ts';
import { placementSchema, type Placement } from '../../../../contract/facts.ts';
import sharp from 'sharp';
import { groundExtents } from './ground-extents.ts';
import { fitGround, heightAt, heightFieldOf, type GroundExtent } from './height-field.ts';

const at = (x: number, y: number, z: number): Pick<Placement, 'position'> => ({ position: [x, y, z] });
const square = (width: number, isFlipped = false): GroundExtent => ({
  ...{ x: 0, z: 0, width, depth: width, isFlipped },
});

describe('Height fields', () => {
  it('are the first numbers of a picture, 0 to 1, with their corners kept where they are made smaller', () => {
    const data = new Uint16Array(4 * 4 * 4);
    for (let pixel = 0; pixel < 16; pixel++) data[pixel * 4] = pixel * 4369;
    const whole = heightFieldOf(data, { width: 4, height: 4 }, 512);
    expect([whole.columns, whole.rows]).to.deep.equal([4, 4]);
    expect(whole.values[5]).to.be.closeTo(5 / 15, 1e-6);
    const small = heightFieldOf(data, { width: 4, height: 4 }, 2);
    expect([...small.values].map((value) => Math.round(value * 15))).to.deep.equal([0, 3, 12, 15]);
    // Floating numbers are taken as they are; what is no number is 0.
    const floats = heightFieldOf(
      new Float32Array([12.5, 0, 0, 0, NaN, 0, 0, 0]),
      { width: 2, height: 1 },
      512,
    );
    expect([...floats.values]).to.deep.equal([12.5, 0]);
  });

  it('have heights between their numbers, and none beside them', () => {
    const field = { columns: 2, rows: 2, values: new Float32Array([0, 1, 0, 1]) };
    const extent = { x: 10, z: 20, width: 4, depth: 8, isFlipped: false };
    expect(heightAt(field, extent, 8, 20)).to.equal(0);
    expect(heightAt(field, extent, 11, 24)).to.be.closeTo(0.75, 1e-6);
    expect(heightAt(field, extent, 12.1, 20)).to.be.NaN;
    const slope = { columns: 2, rows: 2, values: new Float32Array([0, 0, 1, 1]) };
    expect(heightAt(slope, extent, 10, 22)).to.be.closeTo(0.75, 1e-6);
    expect(heightAt(slope, { ...extent, isFlipped: true }, 10, 22)).to.be.closeTo(0.25, 1e-6);
    expect(heightAt({ columns: 1, rows: 1, values: new Float32Array([0.5]) }, extent, 10, 20)).to.equal(0.5);
  });

  it('are fitted to what stands on them, whatever flies above and swims around', () => {
    const field = { columns: 65, rows: 65, values: new Float32Array(65 * 65) };
    for (let row = 0; row < 65; row++)
      for (let column = 0; column < 65; column++)
        field.values[row * 65 + column] = Math.abs(Math.sin(column / 9) * Math.cos(row / 7));
    const extent = square(200, true);
    const things = Array.from({ length: 300 }, (_, i) => {
      const [x, z] = [((i * 37) % 199) - 99, ((i * 53) % 197) - 98];
      const height = heightAt(field, extent, x, z) * 30 - 4;
      // Four of ten do not stand on it.
      return at(x, i % 10 < 4 ? 5 + ((i * 7919) % 40) : height, z);
    });
    const fitted = fitGround(field, things, [square(150), square(200), extent, square(260, true)]);
    expect(fitted?.extent).to.deep.equal(extent);
    expect(fitted?.levels.lowest).to.be.closeTo(-4, 0.1);
    expect(fitted?.levels.highest).to.be.closeTo(26, 0.2);
    expect(fitted?.within).to.equal(300);
    expect(fitted?.standing).to.be.within(180, 220);
  });

  it('fit nothing where too few things stand on them', () => {
    const field = { columns: 3, rows: 3, values: Float32Array.from({ length: 9 }, (_, i) => i / 8) };
    expect(fitGround(field, [at(0, 1, 0), at(1, 2, 1)], [square(4)])).to.equal(null);
    expect(fitGround(field, [], [])).to.equal(null);
    const level = { columns: 2, rows: 2, values: new Float32Array(4) };
    const things = Array.from({ length: 50 }, (_, i) => at(i / 25 - 1, i, 0));
    expect(fitGround(level, things, [square(4)]), 'level ground says nothing of heights').to.equal(null);
  });

  it('of the demo lie where its generator has them, told by nothing but the placements', async () => {
    for (const name of ['isle_mill', 'isle_long', 'isle_king']) {
      const isle = isles.find((one) => one.name === name);
      if (!isle) throw new Error('no such isle');
      const { placements } = JSON.parse(mapOf(isle, false)) as { placements: unknown[] };
      const { data, info } = await sharp(await heightField(isle, 129))
        .toColourspace('grey16')
        .raw({ depth: 'ushort' })
        .toBuffer({ resolveWithObject: true });
      const numbers = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
      const field = heightFieldOf(numbers, info, 512, info.channels);
      const placed = placements.map((one) => placementSchema.parse(one));
      // Where nothing is known of the size of its isle, what floats around it makes no ground of it.
      const plain = { placements: placed, models: {}, grounds: { heights: [], pictures: [] }, costs: {} };
      const guessed = fitGround(field, placed, groundExtents(plain, field));
      if (guessed) expect(guessed.levels.highest - guessed.levels.lowest, name).to.be.above(isle.height);
      const half = isle.size / 2;
      const model = placed[0]?.model ?? '';
      const bounds = { min: [-half, -1, -half], max: [half, 1, half] } as const;
      const cost = { bytes: 1, triangles: 1, vertices: 1, materials: 1, textures: 0 };
      const scene = {
        placements: placed,
        models: { [model]: 'isle.glb' },
        grounds: { heights: [], pictures: [] },
        costs: { 'isle.glb': { ...cost, bounds: { min: [...bounds.min], max: [...bounds.max] } } },
      } as Parameters<typeof groundExtents>[0];
      const fitted = fitGround(field, placed, groundExtents(scene, field));
      expect(fitted?.extent, name).to.deep.equal(square(isle.size));
      expect(fitted?.levels.lowest, name).to.be.closeTo(-0.6 * isle.height, 0.05 * isle.height);
      expect(fitted?.levels.highest, name).to.be.closeTo(1.2 * isle.height, 0.05 * isle.height);
      // The drawn height at a place is the generator's own.
      if (!fitted) continue;
      const { lowest, highest } = fitted.levels;
      const drawn = lowest + heightAt(field, fitted.extent, 3, -5) * (highest - lowest);
      const own = heightOf(isle)(3 / isle.size + 0.5, -5 / isle.size + 0.5);
      expect(drawn, name).to.be.closeTo(own, 0.1 * isle.height);
    }
  });
});
