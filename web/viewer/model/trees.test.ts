import { expect } from 'chai';
import type { PartEntry } from '../engine/model-parts.ts';
import { boneRows } from './bone-tree.ts';
import { partRows } from './part-tree.ts';

const part = (id: number, name: string, above: string[], material = 'Wood'): PartEntry => ({
  ...{ id, name, above, material, triangles: 10 * (id + 1), vertices: 30, isMovable: true, helper: null },
});
const parts = [
  part(0, 'hull', ['ferry', 'body']),
  part(1, 'cabin', ['ferry', 'body']),
  part(2, 'lamp', ['ferry', 'lights', 'front'], 'Glass'),
  part(3, 'flag', ['ferry']),
];
const told = (rows: readonly { depth: number; name: string }[]): string[] =>
  rows.map(({ depth, name }) => `${'  '.repeat(depth)}${name}`);

describe('The tree of parts', () => {
  it('has a line for what several hang on, and none for what holds one thing alone', () => {
    expect(told(partRows(parts, '', new Set()))).to.deep.equal([
      ...['ferry', '  body', '    hull', '    cabin', '  lamp', '  flag'],
    ]);
    const [ferry] = partRows(parts, '', new Set());
    expect(ferry).to.deep.include({ triangles: 100, parts: [0, 1, 2, 3], part: null, isOpen: true });
  });

  it('closes', () => {
    expect(told(partRows(parts, '', new Set(['/ferry/body'])))).to.deep.equal([
      ...['ferry', '  body', '  lamp', '  flag'],
    ]);
  });

  it('is searched by names and materials, open where something is found', () => {
    expect(told(partRows(parts, 'glass', new Set(['/ferry'])))).to.deep.equal(['lamp']);
    expect(told(partRows(parts, 'BODY h', new Set()))).to.deep.equal(['hull']);
    expect(partRows(parts, 'nothing', new Set())).to.deep.equal([]);
  });
});

describe('The tree of bones', () => {
  const bones = [
    { name: 'root', parent: -1 },
    { name: 'spine', parent: 0 },
    { name: 'head', parent: 1 },
    { name: 'tail', parent: 0 },
    { name: 'stray', parent: -1 },
  ];

  it('has each bone below the one that it hangs on', () => {
    expect(told(boneRows(bones, '', new Set()))).to.deep.equal([
      ...['root', '  spine', '    head', '  tail', 'stray'],
    ]);
    expect(told(boneRows(bones, '', new Set(['1'])))).to.deep.equal(['root', '  spine', '  tail', 'stray']);
  });

  it('is a list where somebody searches, and as deep as a file can have it', () => {
    expect(told(boneRows(bones, 'a', new Set()))).to.deep.equal(['head', 'tail', 'stray']);
    const chain = Array.from({ length: 20_000 }, (_, at) => ({ name: `b${at}`, parent: at - 1 }));
    expect(boneRows(chain, '', new Set()).at(-1)).to.deep.include({ depth: 19_999 });
  });
});
