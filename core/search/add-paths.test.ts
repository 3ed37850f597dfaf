import { expect } from 'chai';
import { seeded } from '../../demo/seeded.ts';
import { addPaths } from './add-paths.ts';
import { PathColumn, compareTexts, sortedTexts, type FoldedTexts } from './path-column.ts';
import { PathIndex, termOf } from './path-index.ts';
import { makePathTables } from './path-tables.ts';

const columnOf = (paths: readonly string[]): FoldedTexts => {
  const column = new PathColumn(16);
  for (const path of paths) column.add(path);
  return column.finish();
};

/** Names as they occur, and such as are rare: capitals, other scripts, beyond U+FFFF, one letter, one the beginning of the other. */
const rare = [
  'a',
  'ab',
  'Ab',
  'aB.PNG',
  'É/Reiher.png',
  'é',
  'Ｚ',
  '\u{1f426}',
  '\u{e000}x',
  'ÅSA',
  'ẞ',
  'İ',
  '',
];

function somePaths(count: number, seed: number): string[] {
  const random = seeded(seed);
  const words = ['heron', 'Lantern', 'ferry', 'reed', 'ÖL', 'x', '_nrm', '2'];
  const pick = (): string => words[Math.floor(random() * words.length)] ?? '';
  return Array.from(
    { length: count },
    () => `${pick()}/${pick()}${pick()}_${Math.floor(random() * 500)}.png`,
  );
}

describe('sortedTexts', () => {
  it('has the order in which programs compare strings, also beyond U+FFFF', () => {
    const paths = [...somePaths(3000, 5), ...rare, ...rare.map((name) => `heron/${name}`)];
    const order = [...sortedTexts(columnOf(paths))].map((number) => paths[number]);
    expect(order).to.deep.equal([...paths].sort());
  });

  it('compares what begins alike by its length', () => {
    const texts = columnOf(['heron', 'heron2', 'heron']);
    expect(compareTexts(texts, 0, texts, 1)).to.be.below(0);
    expect(compareTexts(texts, 1, texts, 2)).to.be.above(0);
    expect(compareTexts(texts, 0, texts, 2)).to.equal(0);
  });
});

describe('addPaths', () => {
  const words = [
    'heron',
    'lant',
    'er',
    'x',
    'öl',
    '_n',
    'png',
    '2',
    'ab',
    'é',
    'åsa',
    'i̇',
    'zebra',
    '\u{1f426}',
  ];
  const check = (paths: readonly string[], index: PathIndex): void => {
    expect(Array.from(paths, (_, number) => index.path(number))).to.deep.equal(paths);
    for (const one of words)
      for (const other of ['', ...words.slice(0, 5)]) {
        const found: number[] = [];
        index.find(
          [one, other].filter((word) => word !== '').map(termOf),
          [termOf('499')],
          (number) => found.push(number) > 0,
        );
        const expected = paths.flatMap((path, number) => {
          const folded = path.toLowerCase();
          return folded.includes(one) && folded.includes(other) && !folded.includes('499') ? [number] : [];
        });
        expect(found, `${one} ${other}`).to.deep.equal(expected);
      }
    paths.forEach((path, number) => expect(index.numberOf(path)).to.equal(number));
    expect(index.numberOf('heron/none')).to.equal(-1);
  };

  it('finds the same as tables that are made of all at once, round after round', () => {
    const left = [...new Set([...somePaths(2000, 7), ...rare])];
    let paths = left.splice(0, 400).sort();
    let tables = makePathTables(paths);
    check(paths, new PathIndex(tables));
    while (left.length > 0) {
      const fresh = left.splice(0, 300).sort();
      const made = addPaths(tables, columnOf(fresh));
      expect(made.tables.first).to.equal(tables.first);
      fresh.forEach((path, at) =>
        expect(new PathIndex(made.tables).path(made.numberOfFresh[at] ?? -1)).to.equal(path),
      );
      paths.forEach((path, at) =>
        expect(new PathIndex(made.tables).path(made.numberOfKnown[at] ?? -1)).to.equal(path),
      );
      paths = [...paths, ...fresh].sort();
      tables = made.tables;
      check(paths, new PathIndex(tables));
    }
  });

  it('stops where the visitor has enough, whichever came first', () => {
    const { tables } = addPaths(makePathTables(['b1', 'd1', 'f1']), columnOf(['a1', 'c1', 'e1', 'g1']));
    const index = new PathIndex(tables);
    for (let most = 1; most <= 7; most++) {
      const found: string[] = [];
      index.find([termOf('1')], [], (number) => found.push(index.path(number)) < most);
      expect(found).to.have.length(most);
      const pairs: string[] = [];
      index.find(
        [[{ texts: [new TextEncoder().encode('1'), new TextEncoder().encode('c1')] }]],
        [],
        (number) => {
          pairs.push(index.path(number));
          return true;
        },
      );
      expect(pairs).to.deep.equal(['c1']);
    }
    const found: string[] = [];
    index.find([], [], (number) => found.push(index.path(number)) < 5);
    expect(found).to.deep.equal(['a1', 'b1', 'c1', 'd1', 'e1']);
  });

  it('makes everything anew where more came than a tenth', () => {
    const paths = somePaths(60_000, 11)
      .map((path, number) => `${path}${number}`)
      .sort();
    const first = paths.filter((_, at) => at % 2 === 0);
    const { tables } = addPaths(makePathTables(first), columnOf(paths.filter((_, at) => at % 2 === 1)));
    expect(tables.later).to.have.length(0);
    expect(tables.first).to.deep.equal(makePathTables(paths).first);
  });
});
