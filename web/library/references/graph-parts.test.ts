import { expect } from 'chai';
import cytoscape from 'cytoscape';
import dagre from 'cytoscape-dagre';
import type { ReachedAsset, References } from '../../../contract/references.ts';
import { graphLayout, graphParts } from './graph-parts.ts';

const reached = (
  path: string,
  depth: number,
  via: string,
  rule: ReachedAsset['rule'] = 'exact',
): ReachedAsset => ({ path, kind: 'model', depth, via, rule, text: path, where: 'model' });

const few: References = {
  needs: [reached('t/b.png', 1, 'm/a.glb'), reached('t/c.png', 2, 't/b.png', 'name')],
  neededBy: [reached('maps/m.json', 1, 'm/a.glb')],
  isCut: false,
  missing: [{ text: 'lost.png', where: 'file' }],
};

describe('graphParts', () => {
  it('points edges at what is needed, and tells guesses and what is missing', () => {
    const { nodes, edges } = graphParts('m/a.glb', few);
    expect(nodes.find(({ id }) => id === 'missing lost.png')).to.include({
      role: 'missing',
      label: 'lost.png',
    });
    expect(edges.map(({ from, to, isGuess }) => [from, to, isGuess])).to.deep.equal([
      ['m/a.glb', 't/b.png', false],
      ['t/b.png', 't/c.png', true],
      ['maps/m.json', 'm/a.glb', false],
      ['m/a.glb', 'missing lost.png', false],
    ]);
  });

  it('is laid out with who needs it to the left, and what it needs to the right, step by step', () => {
    cytoscape.use(dagre);
    const { nodes, edges } = graphParts('m/a.glb', few);
    const graph = cytoscape({
      headless: true,
      elements: [
        ...nodes.map(({ id }) => ({ data: { id } })),
        ...edges.map(({ id, from, to }) => ({ data: { id, source: from, target: to } })),
      ],
      layout: graphLayout,
    });
    const left = (id: string): number => graph.getElementById(id).position().x;
    expect(left('maps/m.json')).to.be.below(left('m/a.glb'));
    expect(left('m/a.glb')).to.be.below(left('t/b.png'));
    expect(left('missing lost.png')).to.equal(left('t/b.png'));
    expect(left('t/b.png')).to.be.below(left('t/c.png'));
  });

  it('cuts what is too much, and says by how much', () => {
    const many = Array.from({ length: 40 }, (_, at) => reached(`t/${at}.png`, 1, 'a'));
    const { nodes, edges } = graphParts('a', { needs: many, neededBy: [], isCut: false, missing: [] });
    expect(nodes).to.have.length(32);
    expect(nodes.find(({ role }) => role === 'more')?.label).to.equal('10 more');
    expect(edges).to.have.length(31);
  });
});
