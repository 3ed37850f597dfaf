import { expect } from 'chai';
import { formatOf } from '../kinds/formats.ts';
import { makePathTables } from '../search/path-tables.ts';
import type { StateTables } from '../search/search.ts';
import { FolderTree, countsByKind } from './folder-tree.ts';

type Spans = readonly (readonly [first: number, last: number, format: string, size: number])[];

function treeOf(
  files: Readonly<Record<string, Spans>>,
  sequence: number,
  containers: readonly string[],
): FolderTree {
  const paths = Object.keys(files).sort();
  const spans = paths.flatMap((path) => files[path] ?? []);
  let end = 0;
  const states: StateTables = {
    spanAt: Uint32Array.from([0, ...paths.map((path) => (end += files[path]?.length ?? 0))]),
    oldest: 1,
    first: Uint32Array.from(spans, ([first]) => first),
    last: Uint32Array.from(spans, ([, last]) => last),
    format: Uint16Array.from(spans, ([, , format]) => formatOf(format).id),
    figures: {
      size: Float64Array.from(spans, ([, , , size]) => size),
      bones: Float64Array.from(spans, ([, , format]) => (format === 'glb' ? 4 : NaN)),
    },
  };
  const spanOf = (number: number): number => {
    for (let span = states.spanAt[number] ?? 0; span < (states.spanAt[number + 1] ?? 0); span++)
      if ((states.first[span] ?? 0) <= sequence && (states.last[span] ?? 0) >= sequence) return span;
    return -1;
  };
  return new FolderTree(makePathTables(paths), states, sequence, spanOf, (path) => containers.includes(path));
}

describe('FolderTree', () => {
  const files = {
    'a.txt': [[1, 9, 'plain', 1]],
    'a/b.zip!/c/d.png': [[2, 9, 'png', 10]],
    'a/b.zip!/c/e.glb': [
      [1, 1, 'glb', 5],
      [2, 9, 'glb', 7],
    ],
    'a/b.zipper': [[1, 1, 'binary', 3]],
    'a/b/x.png': [[1, 9, 'png', 100]],
    'a/wow!/y.png': [[1, 9, 'png', 1000]],
  } as const;

  it('counts by kind, size and change, with all that lies below', () => {
    const tree = treeOf(files, 2, ['a/b.zip']);
    const root = tree.find('');
    expect(root).to.include({ files: 5, bytes: 1118, fresh: 1, changed: 1, skeletons: 1 });
    expect(root && countsByKind(root)).to.deep.equal({ picture: 3, model: 1, text: 1 });
    expect(tree.find('a/b.zip')).to.include({ files: 2, isContainer: true, fresh: 1, changed: 1 });
    expect(tree.find('a/b.zip!/c')?.assets).to.have.length(2);
  });

  it('tells archives from folders that end in an exclamation mark', () => {
    const tree = treeOf(files, 2, ['a/b.zip']);
    expect(tree.find('a/wow!')).to.include({ isContainer: false, name: 'wow!' });
    expect(tree.find('a')?.folders.map((at) => tree.folders[at]?.name)).to.deep.equal(['b.zip', 'b', 'wow!']);
  });

  it('shows a build as it was, and nothing as new in the oldest', () => {
    const tree = treeOf(files, 1, ['a/b.zip']);
    expect(tree.find('')).to.include({ files: 5, fresh: 0, changed: 0 });
    expect(tree.find('a/b.zip!/c')?.assets).to.have.length(1);
    expect(tree.find('gone')).to.equal(null);
  });
});
