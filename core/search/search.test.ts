import { expect } from 'chai';
import { seeded } from '../../demo/seeded.ts';
import { formatOf } from '../kinds/formats.ts';
import { PathIndex } from './path-index.ts';
import { makePathTables } from './path-tables.ts';
import { QueryError, parseQuery } from './query.ts';
import { termsOf } from './expand.ts';
import { Lexicon } from '../names/lexicon.ts';
import {
  search as searchTerms,
  whyFound,
  type Found,
  type SearchOptions,
  type StateTables,
} from './search.ts';
import type { Query } from './query.ts';
import { emptyForm, writeQuery } from './write-query.ts';

const none = new Lexicon();
const search = (
  index: PathIndex,
  states: StateTables,
  query: Query,
  sequence: number | null,
  options: SearchOptions,
): Found => searchTerms(index, states, query, termsOf(query, none), sequence, options);

describe('parseQuery', () => {
  it('reads words, quoted ones, excluded ones, choices and ranges', () => {
    expect(
      parseQuery(
        'Heron  -grey "two Words" kind:model,clip -ext:.png size:>1.5k seconds:2..3 width:64 bones:<=4',
      ),
    ).to.deep.include({
      words: [
        { text: 'heron', isExcluded: false },
        { text: 'grey', isExcluded: true },
        { text: 'two words', isExcluded: false },
      ],
      choices: [
        { field: 'kind', values: ['model', 'clip'], isExcluded: false },
        { field: 'ext', values: ['png'], isExcluded: true },
      ],
    });
    const { ranges } = parseQuery('size:>1.5k seconds:2..3 width:64 bones:<=4 height:..9');
    expect(ranges.map(({ field, low, high }) => [field, Math.round(low * 1000) / 1000, high])).to.deep.equal([
      ['size', 1500, Infinity],
      ['seconds', 2, 3],
      ['width', 64, 64],
      ['bones', -Infinity, 4],
      ['height', -Infinity, 9],
    ]);
    expect(ranges[0]?.low).to.be.greaterThan(1500);
    expect(parseQuery('  ')).to.deep.equal({ words: [], ranges: [], choices: [], roles: [], contents: [] });
    expect(parseQuery('- a').words.map(({ text }) => text)).to.deep.equal(['-', 'a']);
  });

  it('says what is wrong, and where', () => {
    for (const [text, at, length, message] of [
      ['lamp kind:modl', 10, 4, 'is no kind'],
      ['lamp weight:red', 5, 6, 'nothing to search by'],
      ['size:big', 5, 3, 'is no number'],
      ['a "b c', 2, 4, 'not closed'],
      ['width:9..2', 6, 4, 'comes first'],
      ['kind:', 0, 5, 'needs a value'],
    ] as const)
      try {
        parseQuery(text);
        expect.fail(`${text} should not be read`);
      } catch (error) {
        expect(error).to.be.instanceOf(QueryError);
        expect(error, text).to.include({ at, length });
        expect((error as Error).message).to.include(message);
      }
  });
});

describe('search', () => {
  const number = (name: string): number => formatOf(name).id;
  const statesOf = (
    rows: readonly { spans: [first: number, last: number, format: string, size: number][] }[],
  ): StateTables => {
    const spans = rows.flatMap((row) => row.spans);
    let end = 0;
    return {
      spanAt: Uint32Array.from([0, ...rows.map((row) => (end += row.spans.length))]),
      oldest: 1,
      first: Uint32Array.from(spans, ([first]) => first),
      last: Uint32Array.from(spans, ([, last]) => last),
      format: Uint16Array.from(spans, ([, , format]) => number(format)),
      figures: {
        size: Float64Array.from(spans, ([, , , size]) => size),
        triangles: Float64Array.from(spans, ([, , format, size]) => (format === 'glb' ? size / 10 : NaN)),
      },
    };
  };
  const paths = ['a/Heron_white.glb', 'a/heron_grey.glb', 'b/heron.png', 'Wörter/ÄÖ.txt', 'x'];
  const index = new PathIndex(makePathTables(paths));
  const states = statesOf([
    {
      spans: [
        [1, 1, 'glb', 1000],
        [3, 9, 'glb', 5000],
      ],
    },
    { spans: [[1, 9, 'glb', 2000]] },
    { spans: [[2, 9, 'png', 300]] },
    { spans: [[1, 9, 'plain', 10]] },
    { spans: [[1, 9, 'binary', 1]] },
  ]);
  const find = (text: string, sequence: number | null = 9): string[] =>
    search(index, states, parseQuery(text), sequence, { limit: 100, most: 100 }).hits.map(({ number }) =>
      index.path(number),
    );

  it('finds parts of words in any order and any case, beyond Latin letters too', () => {
    expect(find('HERON a/')).to.deep.equal(['a/Heron_white.glb', 'a/heron_grey.glb']);
    expect(find('wörter äö')).to.deep.equal(['Wörter/ÄÖ.txt']);
    expect(find('x')).to.deep.equal(['Wörter/ÄÖ.txt', 'x']);
    expect(find('er')).to.deep.equal([
      'a/Heron_white.glb',
      'a/heron_grey.glb',
      'b/heron.png',
      'Wörter/ÄÖ.txt',
    ]);
    expect(find('heron -grey')).to.deep.equal(['a/Heron_white.glb', 'b/heron.png']);
    expect(find('heronx')).to.deep.equal([]);
    expect(find('')).to.have.length(5);
  });

  it('finds by kind, extension and figures', () => {
    expect(find('kind:picture')).to.deep.equal(['b/heron.png']);
    expect(find('heron -ext:glb')).to.deep.equal(['b/heron.png']);
    expect(find('ext:glb,TXT')).to.deep.equal(['a/Heron_white.glb', 'a/heron_grey.glb', 'Wörter/ÄÖ.txt']);
    expect(find('ext:png')).to.deep.equal(['b/heron.png']);
    expect(find('ext:ng')).to.deep.equal([]);
    expect(find('size:>=2k')).to.deep.equal(['a/Heron_white.glb', 'a/heron_grey.glb']);
    expect(find('triangles:>250')).to.deep.equal(['a/Heron_white.glb']);
    // What has no triangles is not among those with few.
    expect(find('-triangles:>250')).to.deep.equal(['a/heron_grey.glb']);
  });

  it('looks at one build, or at all of them', () => {
    expect(find('heron', 2)).to.deep.equal(['a/heron_grey.glb', 'b/heron.png']);
    expect(find('white', 1)).to.deep.equal(['a/Heron_white.glb']);
    expect(search(index, states, parseQuery('white'), 1, { limit: 9, most: 9 }).hits[0]?.span).to.equal(0);
    expect(find('heron', null)).to.have.length(3);
  });

  it('stops when it has enough, and says so', () => {
    expect(search(index, states, parseQuery('heron'), 9, { limit: 1, most: 2 })).to.deep.include({
      isCut: true,
      total: 2,
      hits: [{ number: 0, span: 1 }],
    });
    expect(search(index, states, parseQuery('heron'), 9, { limit: 1, most: 3 })).to.include({ isCut: false });
  });

  it('says why', () => {
    expect(whyFound(parseQuery('her a/ triangles:>1'), 'a/heron.glb', () => 1204, none)).to.equal(
      '“her” in its name, “a/” in its folder, 1,204 triangles',
    );
  });

  it('equals looking through all paths, on seeded cases', () => {
    const random = seeded(3);
    const words = ['reed', 'ferry', 'lamp', 'gru', 'col', 'l0', 'png', 'q'];
    const pick = (): string => words[Math.floor(random() * words.length)] ?? '';
    const many = Array.from(
      { length: 3000 },
      (_, at) => `${pick()}/${pick()}_${pick()}${at % 97}.${pick()}`,
    ).sort();
    const large = new PathIndex(makePathTables(many));
    const everywhere = statesOf(many.map(() => ({ spans: [[1, 1, 'binary', 1]] })));
    for (let round = 0; round < 200; round++) {
      const wanted = Array.from(
        { length: 1 + Math.floor(random() * 3) },
        () =>
          pick().slice(0, 1 + Math.floor(random() * 4)) +
          (random() < 0.3 ? String(Math.floor(random() * 99)) : ''),
      );
      const without = random() < 0.3 ? pick() : '~';
      const hits = search(large, everywhere, parseQuery(`${wanted.join(' ')} -${without}`), 1, {
        limit: 1e6,
        most: 1e6,
      }).hits.map(({ number: at }) => large.path(at));
      expect(hits, wanted.join(' ')).to.deep.equal(
        many.filter((path) => wanted.every((word) => path.includes(word)) && !path.includes(without)),
      );
    }
  });
});

describe('writeQuery', () => {
  it('writes what a form asks for, as it is read again', () => {
    const text = writeQuery({
      ...emptyForm,
      words: 'heron',
      without: 'grey',
      extensions: '.glb png',
      inTexts: 'wet planks',
      from: '10k',
    });
    expect(text).to.equal('heron -grey ext:glb,png text:"wet planks" size:10k..');
    expect(parseQuery(text).contents).to.deep.equal([{ text: 'wet planks', isExcluded: false }]);
    expect(writeQuery({ ...emptyForm, inTexts: '"one"' })).to.equal('text:one');
    expect(writeQuery(emptyForm)).to.equal('');
  });
});
