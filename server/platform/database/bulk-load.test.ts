import { expect } from 'chai';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { bulkLoad } from './bulk-load.ts';
import { change, containing, select } from './rows.ts';

describe('bulkLoad', () => {
  const house = new TestHouse();
  const target = {
    table: 'loaded',
    columns: [{ name: 'id' }, { name: 'bytes', binary: true }, { name: 'words' }],
    onDuplicate: 'ignore' as const,
  };
  before(async () => {
    await house.open();
    await change(
      house.pool,
      'CREATE TABLE loaded (id INT NOT NULL PRIMARY KEY, bytes VARBINARY(16) NULL, words VARCHAR(60) NULL)',
    );
  });
  after(() => house.close());
  const rows = () =>
    select<{ id: number; bytes: Buffer | null; words: string | null }>(
      house.pool,
      'SELECT * FROM loaded ORDER BY id',
    );

  it('brings every letter and every byte in as it is', async () => {
    const words = [
      'tab\there',
      'line\nfeed',
      'back\\slash',
      'NUL\0',
      '\\N',
      "it's “quoted”",
      'Schilf 葦 🪷',
      '',
      ' spaces ',
    ];
    const given = words.map((word, index) => [index, Buffer.from([0, 9, 10, 92, 255, index]), word]);
    expect(await bulkLoad(house.pool, target, [...given, [99, null, null]])).to.equal(words.length + 1);
    const found = await rows();
    expect(found.slice(0, -1).map((row) => row.words)).to.deep.equal(words);
    expect(found[3]?.bytes?.equals(Buffer.from([0, 9, 10, 92, 255, 3]))).to.equal(true);
    expect(found.at(-1)).to.deep.equal({ id: 99, bytes: null, words: null });
  });

  it('counts what went in, where a key was there already', async () => {
    expect(
      await bulkLoad(house.pool, target, [
        [99, null, 'other'],
        [100, null, 'new'],
      ]),
    ).to.equal(1);
    expect((await rows()).at(-2)?.words).to.equal(null);
    await bulkLoad(house.pool, { ...target, onDuplicate: 'replace' }, [[99, null, 'other']]);
    expect((await rows()).at(-2)?.words).to.equal('other');
  });

  it('never lets a value be cut in silence', async () => {
    await bulkLoad(house.pool, target, [[101, null, 'x'.repeat(200)]]).then(
      () => expect.fail('it does not fit'),
      (error: Error) => expect(error.message).to.match(/did not fit|too long/),
    );
  });

  it('finds text literally that means something to LIKE', async () => {
    await bulkLoad(house.pool, target, [
      [200, null, '100%_lit\\'],
      [201, null, '100 lit'],
    ]);
    const found = await select<{ id: number }>(house.pool, 'SELECT id FROM loaded WHERE words LIKE ?', [
      containing('%_lit\\'),
    ]);
    expect(found.map(({ id }) => id)).to.deep.equal([200]);
  });
});
