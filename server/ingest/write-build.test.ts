import { expect } from 'chai';
import { mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { TestHouse } from '../../tests/support/worvel.ts';
import { openEnd } from '../acquire/builds/spans.ts';
import { select } from '../platform/database/rows.ts';

interface Lifetime {
  path: string;
  first: number;
  last: number | 'open';
}

/** What builds become in the tables: a row for as long as a path stays what it is. */
describe('A build that is written', () => {
  const house = new TestHouse();
  before(() => house.open());
  after(() => house.close());

  let count = 0;
  let title = '';
  beforeEach(() => (title = `Written ${++count}`));

  const place = (path: string): string => house.path(title, path);
  const put = (path: string, words: string): void => {
    mkdirSync(dirname(place(path)), { recursive: true });
    writeFileSync(place(path), words);
  };
  const index = (label: string, ...more: string[]) => house.index(house.path(title), title, label, ...more);
  const lifetimes = async (): Promise<Lifetime[]> =>
    (
      await select<{ path: string; first: number; last: number }>(
        house.pool,
        `SELECT p.path, s.first_sequence AS first, s.last_sequence AS last FROM asset_spans s
           JOIN paths p ON p.digest = s.path_digest JOIN channels c ON c.id = s.channel_id
           JOIN titles t ON t.id = c.title_id WHERE t.name = ? ORDER BY p.path, s.first_sequence`,
        [title],
      )
    ).map(({ path, first, last }) => ({ path, first, last: last === openEnd ? 'open' : last }));

  it('adds one row for what is new, and none for what stays', async () => {
    put('a.txt', 'reed');
    put('deep/b.txt', 'water');
    await index('1');
    await index('2');
    await index('3');
    expect(await lifetimes()).to.deep.equal([
      { path: 'a.txt', first: 1, last: 'open' },
      { path: 'deep/b.txt', first: 1, last: 'open' },
    ]);
  });

  it('ends a row where a path changes or goes, and begins another where it comes back', async () => {
    put('a.txt', 'reed');
    put('b.txt', 'water');
    await index('1');
    put('a.txt', 'reeds, many of them');
    rmSync(place('b.txt'));
    await index('2');
    put('b.txt', 'water');
    await index('3');
    expect(await lifetimes()).to.deep.equal([
      { path: 'a.txt', first: 1, last: 1 },
      { path: 'a.txt', first: 2, last: 'open' },
      { path: 'b.txt', first: 1, last: 1 },
      { path: 'b.txt', first: 3, last: 'open' },
    ]);
  });

  it('tells paths apart that differ in case alone', async () => {
    put('Lamp.txt', 'one');
    put('lamp.txt', 'two');
    await index('1');
    renameSync(place('Lamp.txt'), place('LAMP.txt'));
    await index('2');
    const found = await lifetimes();
    expect(found).to.have.length(3);
    expect(found).to.deep.include({ path: 'Lamp.txt', first: 1, last: 1 });
    expect(found).to.deep.include({ path: 'LAMP.txt', first: 2, last: 'open' });
    expect(found).to.deep.include({ path: 'lamp.txt', first: 1, last: 'open' });
  });

  it('says what it holds, and how much of it nobody had', async () => {
    put('a.txt', 'alder');
    put('copy.txt', 'alder');
    put('b.txt', 'willow');
    expect(await index('1')).to.include({ files: 3, bytes: 16, newContents: 2, newBytes: 11 });
    put('c.txt', 'bulrush');
    expect(await index('2')).to.include({ files: 4, bytes: 23, newContents: 1, newBytes: 7 });
  });

  it('is taken out and put in again where it is made anew, with the builds on both sides left as they were', async () => {
    put('a.txt', 'one');
    await index('1');
    put('a.txt', 'wrong');
    await index('2');
    put('a.txt', 'three');
    await index('3');
    put('a.txt', 'one');
    put('late.txt', 'forgotten the first time');
    await index('2', '--replace');
    // Neighbours with the same content stay two rows: who tells a history joins them.
    expect(await lifetimes()).to.deep.equal([
      { path: 'a.txt', first: 1, last: 1 },
      { path: 'a.txt', first: 2, last: 2 },
      { path: 'a.txt', first: 3, last: 'open' },
      { path: 'late.txt', first: 2, last: 2 },
    ]);
  });

  it('never has two rows that tell of one path at one time', async () => {
    for (let round = 1; round <= 6; round++) {
      for (const name of ['a', 'b', 'c', 'd'])
        if ((round * name.charCodeAt(0)) % 3 === 0) rmSync(place(`${name}.txt`), { force: true });
        else put(`${name}.txt`, `${name} ${Math.floor(round / 2)}`);
      await index(String(round));
    }
    const found = await lifetimes();
    const end = ({ last }: Lifetime): number => (last === 'open' ? 99 : last);
    for (const one of found) {
      expect(one.first).to.be.at.most(end(one));
      const others = found.filter((other) => other !== one && other.path === one.path);
      for (const other of others)
        expect(end(other) < one.first || other.first > end(one), `${one.path} from ${one.first}`).to.equal(
          true,
        );
    }
  });
});
