import { expect } from 'chai';
import type { PassChange, PassOutcome } from '../../../contract/pass.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { findBuildOf, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { migrate } from '../../platform/database/migrate.ts';
import { change, select } from '../../platform/database/rows.ts';
import { changeStates, undoBatch } from './change-states.ts';
import { listStates, newestRevision } from './states.ts';

describe('Marks of several people at once', () => {
  const house = new TestHouse();
  let span: [PlacedBuild, PlacedBuild];
  before(async () => {
    await house.open();
    await migrate(house.pool);
    await change(house.pool, "INSERT INTO titles (name, rights) VALUES ('Marks', '')");
    await change(house.pool, "INSERT INTO channels (title_id, name) SELECT id, 'main' FROM titles");
    for (const sequence of [1, 2])
      await change(
        house.pool,
        `INSERT INTO builds (channel_id, label, source, released_at, sequence) SELECT id, ?, '/x', NOW(), ? FROM channels`,
        [`0.${sequence}`, sequence],
      );
    const rows = await select<{ id: number }>(house.pool, 'SELECT id FROM builds ORDER BY sequence');
    const [from, to] = await Promise.all(rows.map(({ id }) => findBuildOf(house.pool, id)));
    if (!from || !to) throw new Error('no builds');
    span = [from, to];
  });
  after(() => house.close());
  afterEach(async () => {
    for (const table of ['change_items', 'marks', 'changes'])
      await change(house.pool, `DELETE FROM ${table}`);
  });

  const mark = (by: string, paths: readonly string[], wanted: PassChange, seen = 0): Promise<PassOutcome> =>
    changeStates(house.pool, ...span, paths, { by, seen, change: wanted });

  it('of the same finding that nobody touched: one is told that they did, the others who was first', async () => {
    for (let round = 0; round < 15; round++) {
      const path = `round-${round}.png`;
      const seen = await newestRevision(house.pool, ...span);
      const outcomes = await Promise.all(
        ['ada', 'ben', 'cleo', 'dan'].map((by) => mark(by, [path], { mark: 'kept', assignee: by }, seen)),
      );
      expect(outcomes.filter(({ changed }) => changed === 1)).to.have.length(1);
      const told = outcomes.flatMap(({ conflicts }) => conflicts);
      expect(told).to.have.length(3);
      const state = (await listStates(house.pool, ...span)).get(path);
      for (const conflict of told) expect(conflict.state).to.include({ changedBy: state?.changedBy });
    }
  });

  it('of many findings in any order come to an end, each with a mark, and none in a deadlock', async () => {
    const paths = Array.from({ length: 60 }, (_, at) => `many/${at}.png`);
    const seen = await newestRevision(house.pool, ...span);
    const orders = [
      paths,
      [...paths].reverse(),
      [...paths].sort(() => -1),
      paths.slice(20),
      paths.slice(0, 40),
    ];
    const outcomes = await Promise.all(
      orders.map((order, at) => mark(`person ${at}`, order, { mark: 'aside' }, seen)),
    );
    const changed = outcomes.reduce((sum, outcome) => sum + outcome.changed, 0);
    expect(changed).to.equal(paths.length);
    expect((await listStates(house.pool, ...span)).size).to.equal(paths.length);
  });

  it('become visible in the order of their numbers', async () => {
    let isDone = false;
    const told: number[] = [];
    const listening = (async () => {
      for (let last = 0; !isDone;) {
        const rows = await select<{ id: number }>(
          house.pool,
          'SELECT id FROM changes WHERE channel_id = ? AND id > ? ORDER BY id',
          [span[1].channelId, last],
        );
        told.push(...rows.map(({ id }) => id));
        last = rows.at(-1)?.id ?? last;
      }
    })();
    await Promise.all(
      Array.from({ length: 40 }, (_, at) => mark(`person ${at % 5}`, [`order/${at}.png`], { mark: 'done' })),
    );
    await new Promise((resolve) => setTimeout(resolve, 50));
    isDone = true;
    await listening;
    const all = await select<{ id: number }>(house.pool, 'SELECT id FROM changes ORDER BY id');
    expect(told).to.deep.equal(all.map(({ id }) => id));
  });

  it('are nothing after they were undone, as before they were made', async () => {
    await mark('ada', ['a.png', 'b.png'], { mark: 'kept', addLabels: ['door'] });
    const before = await listStates(house.pool, ...span);
    const { batch } = await mark('ada', ['a.png', 'c.png'], { mark: 'aside', assignee: 'ben' }, 1e9);
    await undoBatch(house.pool, batch, 'ada');
    const after = await listStates(house.pool, ...span);
    for (const path of ['a.png', 'b.png'])
      expect(after.get(path)).to.include({
        mark: before.get(path)?.mark,
        assignee: before.get(path)?.assignee,
      });
    expect(after.get('c.png')?.mark ?? 'open').to.equal('open');
  });
});
