import { expect } from 'chai';
import { boat } from '../../../../demo/grown/boats.ts';
import { readBytes } from '../../../../tests/support/read.ts';

describe('the small picture of a model', () => {
  it('shows what players see: no boxes for collisions around it, and no shadow', async () => {
    // Its helper shapes are of a magenta that nothing else has, and as large as the boat.
    const bytes = await boat({ name: 'fry_test', length: 8, cabins: 1, lamps: 1 }, 0);
    const { preview } = await readBytes(bytes, 'boats/fry_test.glb');
    if (!preview) throw new Error('no picture');
    let [seen, magenta] = [0, 0];
    for (let at = 0; at < preview.rgba.length; at += 4) {
      const [red = 0, green = 0, blue = 0, alpha = 0] = preview.rgba.subarray(at, at + 4);
      if (alpha < 128) continue;
      seen++;
      if (red > green + 60 && blue > green + 60) magenta++;
    }
    expect(seen).to.be.above(1000);
    expect(magenta).to.equal(0);
  });
});
