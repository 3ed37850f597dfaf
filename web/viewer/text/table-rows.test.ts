import { expect } from 'chai';
import { tableRows } from './table-rows.ts';

const rows = [
  ['mast', '10'],
  ['sail', '9'],
  ['oar', ''],
  ['Rope', '1,5'],
  ['oar 2', 'many'],
  ['oar 10', '-3'],
];
const first = (words: string, column: number | null, isDown = false): string[] =>
  tableRows(rows, words, column === null ? null : { column, isDown }).map((at) => rows[at]?.[0] ?? '');

describe('Rows of a table', () => {
  it('stand as the file has them, and are found by words of any cell', () => {
    expect(first('', null)).to.deep.equal(['mast', 'sail', 'oar', 'Rope', 'oar 2', 'oar 10']);
    expect(first('OAR', null)).to.deep.equal(['oar', 'oar 2', 'oar 10']);
    expect(first('oar man', null)).to.deep.equal(['oar 2']);
    expect(first('keel', null)).to.deep.equal([]);
  });

  it('go by numbers where there are numbers, by words behind, and what is empty is last either way', () => {
    expect(first('', 1)).to.deep.equal(['oar 10', 'Rope', 'sail', 'mast', 'oar 2', 'oar']);
    expect(first('', 1, true)).to.deep.equal(['oar 2', 'mast', 'sail', 'Rope', 'oar 10', 'oar']);
  });

  it('go by words with numbers in them as people count', () => {
    expect(first('oar', 0)).to.deep.equal(['oar', 'oar 2', 'oar 10']);
    expect(first('', 7)).to.deep.equal(first('', null));
  });

  it('of a hundred thousand come at once', () => {
    const many = Array.from({ length: 100_000 }, (_, at) => [String((at * 7919) % 100_003), `row ${at}`]);
    const sorted = tableRows(many, '', { column: 0, isDown: false });
    expect(sorted.slice(0, 2).map((at) => many[at]?.[0])).to.deep.equal(['0', '1']);
  });
});
