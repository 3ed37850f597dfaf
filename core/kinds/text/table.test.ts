import { expect } from 'chai';
import papa from 'papaparse';
import { seeded } from '../../../demo/seeded.ts';
import { rowsOf, tableOf } from './table.ts';

const random = seeded(9);
const pick = <Value>(values: readonly Value[]): Value =>
  values[Math.floor(random() * values.length)] as Value;

/** Rows of any shape: empty ones, too short ones, with spaces and letters of anywhere. */
function madeTable(delimiter: string, lineBreak: string, hasQuotes: boolean): string {
  const cell = (): string =>
    pick(['', ' ', 'a', '17', 'boat_01', 'naïve', 'x y', '2,5'.replaceAll(delimiter, '.'), 'über']) +
    (hasQuotes && random() < 0.1 ? '"' : '');
  const quoted = (text: string): string =>
    hasQuotes && (text.includes('"') || random() < 0.2) ? `"${text.replaceAll('"', '""')}"` : text;
  const row = (): string =>
    random() < 0.05
      ? pick(['', '  '])
      : Array.from({ length: random() < 0.1 ? 1 + Math.floor(random() * 5) : 4 }, () => quoted(cell())).join(
          delimiter,
        );
  const first = ['id', 'name', 'size', 'text'].join(delimiter);
  return [first, ...Array.from({ length: 40 }, row)].join(lineBreak) + pick(['', lineBreak]);
}

describe('Rows of tables', () => {
  it('are those that a package for them finds, whatever parts them', async () => {
    for (const delimiter of [',', ';', '\t', '|'])
      for (const lineBreak of ['\n', '\r\n', '\r'])
        for (const hasQuotes of [false, true])
          for (let round = 0; round < 8; round++) {
            const text = madeTable(delimiter, lineBreak, hasQuotes);
            const { data } = papa.parse<string[]>(text, { skipEmptyLines: 'greedy' });
            expect(await rowsOf(text), JSON.stringify(text)).to.deep.equal(data);
          }
  });

  it('are none of nothing, and one of one value', async () => {
    expect(await rowsOf('')).to.deep.equal([]);
    expect(await rowsOf('\n\n')).to.deep.equal([]);
    expect(await rowsOf('\ufeffboat')).to.deep.equal([['boat']]);
  });

  it('give columns their names, or numbers where the first row is of values', async () => {
    expect(await tableOf('id,name\n1,boat\n')).to.deep.equal({
      columns: ['id', 'name'],
      rows: [['1', 'boat']],
      isNamed: true,
    });
    expect(await tableOf('1,boat\n2,quay\n')).to.deep.equal({
      columns: ['column 1', 'column 2'],
      rows: [
        ['1', 'boat'],
        ['2', 'quay'],
      ],
      isNamed: false,
    });
  });
});
