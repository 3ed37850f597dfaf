import { expect } from 'chai';
import fc from 'fast-check';
import {
  facets,
  makeSearchIndex,
  packNumbers,
  shardName,
  unpackNumbers,
  wordsOf,
  type SearchRecord,
} from './search-index.ts';
import { SiteSearch } from './search.ts';

function record(
  name: string,
  others: string[] = [],
  kind: SearchRecord['document']['kind'] = 'model',
): SearchRecord {
  return {
    document: { slug: wordsOf(name).join('-'), name, internalName: '', kind, picture: '', spoiler: false },
    names: [name],
    others,
    facets: { kind: [kind], thing: [], tag: [], build: ['0.1'] },
  };
}

function searchOf(records: readonly SearchRecord[]): {
  search: SiteSearch;
  asked: string[];
  files: Map<string, string>;
} {
  const files = makeSearchIndex(records);
  const asked: string[] = [];
  const search = new SiteSearch(async (path) => {
    asked.push(path);
    const text = files.get(path);
    if (text === undefined) throw new Error(`no ${path}`);
    return JSON.parse(text) as unknown;
  });
  return { search, asked, files };
}

describe('The search of a published site', () => {
  it('parts names as people and files write them', () => {
    expect(wordsOf('lumPier_L0.glb')).to.deep.equal(['lum', 'pier', 'l0', 'glb']);
    expect(wordsOf('Weißer Reiher, 白い鷺')).to.deep.equal(['weißer', 'reiher', '白い鷺']);
    expect(wordsOf('ＡＢＣ')).to.deep.equal(['abc']);
  });

  it('finds by beginnings of all words, names before other places, the newest first', async () => {
    const { search } = searchOf([
      record('Lantern'),
      record('Boat', ['props/lantern_boat.glb']),
      record('Pier lantern'),
      record('Heron', ['birds/heron.glb']),
    ]);
    const find = async (query: string) => (await search.find(query)).numbers;
    expect(await find('lantern')).to.deep.equal([2, 0, 1]);
    expect(await find('lan')).to.deep.equal([2, 0, 1]);
    expect(await find('pier lan')).to.deep.equal([2]);
    expect(await find('boat lantern')).to.deep.equal([1]);
    expect(await find('nothing')).to.deep.equal([]);
    expect(await find('   ')).to.deep.equal([]);
    expect((await search.documents([3, 0])).map(({ name }) => name)).to.deep.equal(['Heron', 'Lantern']);
    expect(await search.facet('kind')).to.deep.equal([{ value: 'model', numbers: [0, 1, 2, 3] }]);
  });

  it('finds what a plain look through all records finds, whatever they are called', async () => {
    const word = fc.string({ minLength: 1, maxLength: 4, unit: fc.constantFrom('a', 'b', 'ä', '灯', '1') });
    const name = fc.array(word, { minLength: 1, maxLength: 3 }).map((words) => words.join(' '));
    await fc.assert(
      fc.asyncProperty(fc.array(name, { maxLength: 40 }), word, async (names, query) => {
        const { search } = searchOf(names.map((one) => record(one)));
        const plain = names.flatMap((one, at) =>
          wordsOf(one).some((known) => known.startsWith(wordsOf(query)[0] ?? '')) ? [at] : [],
        );
        expect([...(await search.find(query)).numbers].sort((a, b) => a - b)).to.deep.equal(plain);
      }),
      { numRuns: 200 },
    );
  });

  it('loads only what the words need, and parts what would be large', async () => {
    const many = Array.from({ length: 30_000 }, (_, at) => record(`Reed ${at} ree${(at * 7).toString(36)}`));
    const { search, asked, files } = searchOf(many);
    const { numbers } = await search.find('reed 12345');
    expect(numbers).to.deep.equal([12_345]);
    await search.documents(numbers);
    const bytes = asked.reduce((sum, path) => sum + (files.get(path)?.length ?? 0), 0);
    const whole = JSON.stringify(many).length;
    expect(bytes).to.be.below(whole / 20);
    for (const [path, text] of files)
      if (!path.startsWith('f/')) expect(text.length, path).to.be.below(200_000);
  });

  it('is the same from the same records', () => {
    const records = ['Lantern', 'Heron', 'Reed bed'].map((name) => record(name));
    expect(makeSearchIndex(records)).to.deep.equal(makeSearchIndex(records));
    expect([...makeSearchIndex([]).keys()].sort()).to.deep.equal(
      ['words.json', ...facets.map((facet) => `f/${facet}.json`)].sort(),
    );
  });

  it('packs numbers without loss', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(5000)), (list) => {
        const numbers = list.sort((a, b) => a - b);
        expect(unpackNumbers(packNumbers(numbers))).to.deep.equal(numbers);
      }),
    );
    expect(packNumbers([0, 1, 2, 3, 40])).to.equal('1-4,11');
    for (const bad of ['x-', '0', '-3', '1-zzzzzzzz', '1,,2'])
      expect(() => unpackNumbers(bad), bad).to.throw('no list of numbers');
  });

  it('names files by code points', () => {
    expect(shardName('灯1')).to.equal('706f-31');
  });
});
