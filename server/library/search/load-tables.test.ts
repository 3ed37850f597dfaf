import { expect } from 'chai';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { seeded } from '../../../demo/seeded.ts';
import { termOf } from '../../../core/search/path-index.ts';
import { spanOf } from '../../../core/search/search.ts';
import { failureOf } from '../../../tests/support/failure.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { openDataFolder } from '../../platform/data-folder.ts';
import { change } from '../../platform/database/rows.ts';
import { ChannelTables, type Searchable } from './channel-tables.ts';
import { hashAt, TextTables } from './text-tables.ts';

/** Tables that take in what has come, beside such as are made of everything at once. */
describe('Tables of a new build', () => {
  const house = new TestHouse();
  const random = seeded(3);
  const folders = ['ferry', 'Marsh', 'jetty/lamps'];
  let tables: ChannelTables;
  let label = 0;

  before(async () => {
    await house.open();
    for (const folder of folders) mkdirSync(house.path('game', folder), { recursive: true });
    for (let number = 0; number < 60; number++) write(`text_${number}.txt`, `reed ${number}`);
    writeFileSync(house.path('game', 'plank.obj'), 'mtllib plank.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n');
    writeFileSync(house.path('game', 'plank.mtl'), 'newmtl wood\nKd 1 0 0\n');
    await indexNext();
    tables = open(house.folder.root);
    await tables.get(1, await tables.builds(1));
  });
  after(() => house.close());

  function write(name: string, text: string): void {
    writeFileSync(house.path('game', folders[name.length % folders.length] ?? '', name), text);
  }
  async function indexNext(): Promise<void> {
    await house.index(house.path('game'), 'Widened', String(++label));
  }
  const open = (root: string): ChannelTables =>
    new ChannelTables(house.pool, house.databaseAddress, { ...house.folder, root });
  const contentsOf = ({ tables: { states, hashes, previews, containers }, index }: Searchable): unknown => ({
    containers: new TextDecoder().decode(containers.slice()).split('\0').sort(),
    paths: Array.from({ length: index.size }, (_, number) => ({
      path: index.path(number),
      spans: Array.from(
        states.first.subarray(states.spanAt[number], states.spanAt[number + 1]),
        (first, at) => {
          const span = (states.spanAt[number] ?? 0) + at;
          const figures = Object.entries(states.figures).flatMap(([field, column]) =>
            Number.isNaN(column[span]) ? [] : [`${field} ${column[span]}`],
          );
          return [
            first,
            states.last[span],
            states.format[span],
            hashAt(hashes, span),
            previews[span],
            figures.sort(),
          ];
        },
      ),
    })),
  });
  /** Also made of everything, in a place where nothing is known. @returns the widened ones */
  async function compared(): Promise<Searchable> {
    tables.forget();
    const builds = await tables.builds(1);
    const widened = await tables.get(1, builds);
    const apart = openDataFolder(mkdtempSync(house.path('apart-')));
    const whole = await open(apart.root).get(1, builds);
    expect(whole.tables.paths.later).to.have.length(0);
    expect(contentsOf(widened)).to.deep.equal(contentsOf(whole));
    for (const word of ['text', '1', 'marsh', 'lamp', 'obj']) {
      const found = [widened, whole].map(({ index }) => {
        const paths: string[] = [];
        index.find([termOf(word)], [], (number) => paths.push(index.path(number)) > 0);
        return paths;
      });
      expect(found[0], word).to.deep.equal(found[1]);
    }
    rmSync(apart.root, { recursive: true });
    return widened;
  }

  it('hold the same, build after build, without making anew what finds the first paths', async () => {
    const { lists } = (await compared()).tables.paths.first;
    for (let round = 0; round < 3; round++) {
      for (let number = 0; number < 60; number++) {
        const chance = random();
        if (chance < 0.1) write(`text_${number}.txt`, `reed ${number} of round ${round}`);
        if (chance > 0.95)
          rmSync(house.path('game', folders['text_1.txt'.length % 3] ?? '', `text_${number}.txt`), {
            force: true,
          });
      }
      write(`Fresh_${round}.txt`, `a lantern of round ${round}`);
      writeFileSync(house.path('game', `É${round}.csv`), 'a,b\n1,2\n');
      await indexNext();
      const { first, later } = (await compared()).tables.paths;
      expect(first.lists).to.deep.equal(lists);
      expect(later).to.have.length(2 * (round + 1));
    }
  });

  it('take facts of what names files that changed, and of what is read later', async () => {
    writeFileSync(house.path('game', 'plank.mtl'), 'newmtl wood\nKd 0 1 0\n');
    await indexNext();
    const { index, tables: made } = await compared();
    const span = spanOf(made.states, index.numberOf('plank.obj'), label);
    expect([
      made.states.first[span],
      made.previews[span],
      made.states.figures.triangles?.[span],
    ]).to.deep.equal([1, 1, 1]);
    await change(house.pool, 'UPDATE builds SET facts_revision = facts_revision + 1 WHERE label = ?', [
      String(label),
    ]);
    await change(house.pool, `UPDATE content_facts SET preview_hash = NULL WHERE format = 'obj'`);
    await compared();
  });

  it('are made of everything where builds in between changed, or there are none for what was asked', async () => {
    await change(
      house.pool,
      'UPDATE builds SET indexed_at = indexed_at + INTERVAL 1 SECOND WHERE label = ?',
      ['2'],
    );
    expect((await compared()).tables.paths.later).to.have.length(0);
  });

  it('add texts that came in a part of their own, and find them all', async () => {
    const place = join(house.folder.root, 'search');
    const parts = async (): Promise<string[]> => partsOf(await tables.textFile(1, await tables.builds(1)));
    const holding = async (word: string): Promise<number> => {
      const builds = await tables.builds(1);
      await tables.get(1, builds);
      const texts = await TextTables.open(await tables.textFile(1, builds));
      return texts.holding(termOf(word)).size;
    };
    tables.forget();
    const lanterns = await holding('a lantern');
    expect(lanterns).to.equal(3);
    const [first = ''] = await parts();
    write('another.txt', 'a lantern of the end');
    await indexNext();
    tables.forget();
    expect(await holding('a lantern')).to.equal(lanterns + 1);
    expect(await holding('reed 1')).to.be.above(1);
    expect(await parts()).to.include(first);
    expect(await parts()).to.have.length(2);
    // Where the parts are damaged, they are made again as soon as a build comes.
    writeFileSync(join(place, first), 'no tables');
    write('one_more.txt', 'a lantern again');
    await indexNext();
    tables.forget();
    expect(await holding('a lantern')).to.equal(lanterns + 2);
    expect(readdirSync(place)).not.to.include(first);
  });

  it('make texts again where a part is damaged or missing, and leave what another process is writing', async () => {
    const place = join(house.folder.root, 'search');
    const builds = await tables.builds(1);
    const file = await tables.textFile(1, builds);
    const [part = ''] = partsOf(file);
    writeFileSync(join(place, 'channel-1-of-another.part'), 'half');
    writeFileSync(join(place, part), 'no tables');
    expect((await failureOf(TextTables.open(file))).message)
      .to.include('damaged')
      .and.include('once more');
    const again = await TextTables.open(await tables.textFile(1, builds));
    expect(again.holding(termOf('a lantern')).size).to.equal(5);
    for (const name of partsOf(file)) rmSync(join(place, name));
    expect(await tables.textFile(1, builds)).to.equal(file);
    expect((await TextTables.open(file)).holding(termOf('a lantern')).size).to.equal(5);
    expect(readdirSync(place)).to.include('channel-1-of-another.part');
  });
});

/** Names of the parts that a channel's texts lie in. Others may lie beside them: another process's, which nobody names. */
function partsOf(file: string): string[] {
  const { parts } = JSON.parse(readFileSync(file, 'utf8')) as { parts: { name: string }[] };
  return parts.map(({ name }) => name);
}
