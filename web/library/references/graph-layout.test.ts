import { expect } from 'chai';
import type { ReachedAsset } from '../../../contract/references.ts';
import { layOut } from './graph-layout.ts';

const reached = (
  path: string,
  depth: number,
  via: string,
  rule: ReachedAsset['rule'] = 'exact',
): ReachedAsset => ({
  path,
  kind: 'model',
  depth,
  via,
  rule,
  text: path,
  where: 'model',
});

describe('layOut', () => {
  it('places needs to the right, who needs to the left, and points edges at what is needed', () => {
    const { nodes, edges } = layOut('m/a.glb', {
      needs: [reached('t/b.png', 1, 'm/a.glb'), reached('t/c.png', 2, 't/b.png', 'name')],
      neededBy: [reached('maps/m.json', 1, 'm/a.glb')],
      isCut: false,
      missing: [{ text: 'lost.png', where: 'file' }],
    });
    const at = (id: string) => nodes.find((node) => node.id === id);
    expect(at('t/b.png')?.x).to.be.greaterThan(0);
    expect(at('t/c.png')?.x).to.equal(2 * (at('t/b.png')?.x ?? 0));
    expect(at('maps/m.json')?.x).to.be.lessThan(0);
    expect(at('missing lost.png')).to.include({ sort: 'missing', label: 'lost.png' });
    expect(edges.map(({ from, to, isGuess }) => [from, to, isGuess])).to.deep.equal([
      ['m/a.glb', 't/b.png', false],
      ['t/b.png', 't/c.png', true],
      ['maps/m.json', 'm/a.glb', false],
      ['m/a.glb', 'missing lost.png', false],
    ]);
  });

  it('cuts a column that is too long, and says by how much', () => {
    const many = Array.from({ length: 40 }, (_, at) => reached(`t/${at}.png`, 1, 'a'));
    const { nodes } = layOut('a', { needs: many, neededBy: [], isCut: false, missing: [] });
    expect(nodes).to.have.length(32);
    expect(nodes.find(({ sort }) => sort === 'more')?.label).to.equal('10 more');
  });
});
