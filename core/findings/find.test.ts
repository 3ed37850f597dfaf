import { expect } from 'chai';
import { contentsOfNewPaths, findDifferences, type Difference, type Leaf } from './find.ts';
import { nearestPath, pairPaths } from './pair-paths.ts';

const leaf = (path: string, hash: string | null): Leaf => ({
  path,
  hash,
  size: 1,
  kind: 'other',
  format: 'binary',
});
const gone = (path: string, hash: string): Difference => ({ old: leaf(path, hash), new: null });
const fresh = (path: string, hash: string): Difference => ({ old: null, new: leaf(path, hash) });

describe('findDifferences', () => {
  it('names each status', () => {
    const differences: Difference[] = [
      { old: leaf('a', '1'), new: leaf('a', '2') },
      gone('old/b', '3'),
      fresh('new/b', '3'),
      gone('c', '4'),
      fresh('d', '5'),
      fresh('e', '6'),
    ];
    expect(contentsOfNewPaths(differences)).to.have.members(['3', '5', '6']);
    const findings = findDifferences(differences, new Map([['6', ['kept/e']]]));
    expect(
      findings.map((finding) => `${finding.status} ${finding.oldPath ?? '-'} ${finding.path}`),
    ).to.deep.equal(['changed a a', 'removed c c', 'added - d', 'copied kept/e e', 'moved old/b new/b']);
  });

  it('pairs repeated contents as multisets: what finds no partner is added or removed', () => {
    const findings = findDifferences([gone('x/1', 'h'), fresh('y/1', 'h'), fresh('y/2', 'h')], new Map());
    expect(findings.map((finding) => finding.status)).to.deep.equal(['moved', 'added']);
    const fewer = findDifferences([gone('x/1', 'h'), gone('x/2', 'h'), fresh('y/2', 'h')], new Map());
    expect(fewer.map((finding) => `${finding.status} ${finding.path}`)).to.deep.equal([
      'removed x/1',
      'moved y/2',
    ]);
  });

  it('never pairs what could not be read', () => {
    const differences: Difference[] = [
      { old: leaf('a', null), new: null },
      { old: null, new: leaf('b', null) },
    ];
    expect(findDifferences(differences, new Map()).map((finding) => finding.status)).to.deep.equal([
      'removed',
      'added',
    ]);
    expect(findDifferences([{ old: leaf('a', null), new: leaf('a', null) }], new Map())).to.deep.equal([]);
  });
});

describe('pairPaths', () => {
  it('prefers the same name, then the longest common end, then order', () => {
    expect(pairPaths(['a/lamp.png', 'b/reed.png'], ['c/reed.png', 'c/lamp.png'])).to.have.deep.members([
      ['a/lamp.png', 'c/lamp.png'],
      ['b/reed.png', 'c/reed.png'],
    ]);
    expect(
      pairPaths(['v1/props/lamp.png', 'v1/ui/lamp.png'], ['v2/ui/lamp.png', 'v2/props/lamp.png']),
    ).to.have.deep.members([
      ['v1/props/lamp.png', 'v2/props/lamp.png'],
      ['v1/ui/lamp.png', 'v2/ui/lamp.png'],
    ]);
    expect(pairPaths(['b', 'a'], ['d', 'c'])).to.have.deep.members([
      ['a', 'c'],
      ['b', 'd'],
    ]);
  });

  it('equals the rule carried out literally, pair by pair, on seeded cases', () => {
    let seed = 7;
    const next = (below: number): number => {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      return (seed >> 8) % below;
    };
    for (let round = 0; round < 200; round++) {
      const path = (): string =>
        Array.from({ length: 1 + next(3) }, () => 'ab'[next(2)]! + 'xy'[next(2)]!).join('/');
      const olds = [...new Set(Array.from({ length: 1 + next(6) }, path))];
      const news = [...new Set(Array.from({ length: 1 + next(6) }, path))];
      const lengths = (pairs: [string, string][]): number[] =>
        pairs.map(([a, b]) => commonEnd(a, b)).sort((a, b) => b - a);
      expect(lengths(pairPaths(olds, news))).to.deep.equal(lengths(literally(olds, news)));
    }
  });

  it('takes ten thousand equal contents in its stride', () => {
    const olds = Array.from({ length: 10_000 }, (_, index) => `old/${index}/empty`);
    const news = Array.from({ length: 10_000 }, (_, index) => `new/${index}/empty`);
    const pairs = pairPaths(olds, news);
    expect(pairs).to.have.length(10_000);
    expect(pairs.every(([a, b]) => a.slice(4) === b.slice(4))).to.equal(true);
  });
});

describe('nearestPath', () => {
  it('goes by the same rule', () => {
    expect(nearestPath('new/lamp.png', ['z/lamp.png', 'a/other.png', 'a/lamp.png'])).to.equal('a/lamp.png');
    expect(nearestPath('x', [])).to.equal(null);
  });
});

function commonEnd(a: string, b: string): number {
  const [x, y] = [`/${a}`, `/${b}`];
  let length = 0;
  while (length < Math.min(x.length, y.length) && x.at(-1 - length) === y.at(-1 - length)) length++;
  return length;
}

/** The rule as it is written: of all pairs the one with the longest common end, again and again. */
function literally(olds: string[], news: string[]): [string, string][] {
  const pairs: [string, string][] = [];
  const left = { olds: [...olds].sort(), news: [...news].sort() };
  while (left.olds.length && left.news.length) {
    let best: [string, string] = [left.olds[0]!, left.news[0]!];
    for (const a of left.olds)
      for (const b of left.news) if (commonEnd(a, b) > commonEnd(...best)) best = [a, b];
    pairs.push(best);
    left.olds.splice(left.olds.indexOf(best[0]), 1);
    left.news.splice(left.news.indexOf(best[1]), 1);
  }
  return pairs;
}
