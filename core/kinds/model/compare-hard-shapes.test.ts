import { expect } from 'chai';
import { compared, made } from '../../../tests/support/made-model.ts';

describe('shapes that are hard to compare', () => {
  const obj = (...lines: string[]): Uint8Array => new TextEncoder().encode(`o cloud\n${lines.join('\n')}\n`);

  it('compares what has points and no triangles by its points', async () => {
    const cloud = (y: number): Uint8Array => obj('v 0 0 0', `v 1 ${y} 0`, 'v 2 0 0', 'p 1 2 3');
    const { sentence, nature, kind } = await compared(cloud(0), cloud(0.5), 'a.obj');
    expect([nature, kind]).to.deep.equal(['other', 'model']);
    expect(sentence).to.equal('1 of 3 points moved, by up to 0.5 units.');
    expect((await compared(cloud(0), obj('v 0 0 0', 'v 1 0 0', 'p 1 2'), 'a.obj')).sentence).to.equal(
      '2 points instead of 3.',
    );
  });

  it('leaves out triangles that are nowhere, and counts them', async () => {
    const broken = await made(({ array }) => void array('POSITION').fill(NaN, 600, 601));
    const { sentence, model, nature } = await compared(await made(), broken);
    expect(nature).to.equal('other');
    expect(model.surface?.greatestMetres).to.be.lessThan(1);
    expect(sentence).to.match(/, \d+ triangles nowhere instead of 0\.$/);
    // Two that are nowhere may well differ: nothing of them is folded away.
    const other = await made(({ array }) => void array('POSITION').fill(Infinity, 600, 601));
    expect((await compared(broken, other)).nature).to.equal('other');
  });

  it('does not call a shape with one other vertex placed otherwise, wherever it stands', async () => {
    const change = (offset: number, spike: number) =>
      made(({ array }) => {
        const positions = array('POSITION');
        for (let at = 0; at < positions.length; at += 3) positions[at] = (positions[at] ?? 0) + offset;
        positions[3 * 500 + 1] = (positions[3 * 500 + 1] ?? 0) * spike;
      });
    expect((await compared(await made(), await change(0, 0.9))).model.placed).to.equal(null);
    expect((await compared(await made(), await change(5, 0.9))).model.placed).to.equal(null);
    expect((await compared(await made(), await change(5, 1))).sentence).to.equal(
      'The same shape, moved by 5.00 m.',
    );
  });

  it('says that a surface came or went', async () => {
    const points = obj('v 0 0 0', 'v 1 0 0', 'v 0 1 0', 'p 1 2 3');
    const triangle = obj('v 0 0 0', 'v 1 0 0', 'v 0 1 0', 'f 1 2 3');
    expect((await compared(points, triangle, 'a.obj')).sentence).to.match(/^It has a surface now, /);
    expect((await compared(triangle, points, 'a.obj')).sentence).to.match(/^It has no surface any more, /);
  });
});
