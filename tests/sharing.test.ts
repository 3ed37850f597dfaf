import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { select } from '../server/platform/database/rows.ts';
import { TestHouse } from './support/worvel.ts';

/** Several processes on one data folder, at once. */
describe('Processes that share a data folder', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    for (const name of ['a', 'b', 'c']) {
      mkdirSync(house.path(name));
      for (let index = 0; index < 60; index++) {
        // Most contents are the same in all of them.
        writeFileSync(
          join(house.path(name), `${index}.bin`),
          `content ${index % 3 === 0 ? name : ''}${index}`,
        );
      }
    }
  });
  after(() => house.close());

  it('index different titles at once, and keep each content once', async () => {
    const results = await Promise.all(
      ['a', 'b', 'c'].map((name) => house.indexByCommand(house.path(name), `Title ${name}`, '1')),
    );
    for (const result of results) expect(result).to.include({ files: 60, unreadable: 0 });
    const [contents] = await select<{ count: number }>(
      house.pool,
      'SELECT COUNT(*) AS count FROM contents WHERE job_id > 0',
    );
    expect(contents?.count).to.equal(40 + 3 * 20);
    const news = results.reduce((sum, { newContents }) => sum + newContents, 0);
    expect(news).to.equal(40 + 3 * 20);
  });

  it('index builds of one channel at once, one after the other on its line', async () => {
    await house.index(house.path('a'), 'Line', '0');
    await Promise.all(['a', 'b', 'c'].map((name) => house.indexByCommand(house.path(name), 'Line', name)));
    const builds = await select<{ label: string; sequence: number }>(
      house.pool,
      `SELECT b.label, b.sequence FROM builds b JOIN channels c ON c.id = b.channel_id JOIN titles t ON t.id = c.title_id
        WHERE t.name = 'Line' ORDER BY b.sequence`,
    );
    expect(builds.map(({ sequence }) => sequence)).to.deep.equal([1, 2, 3, 4]);
    expect((await house.diff('Line', '0', 'a')).findings).to.deep.equal([]);
    expect((await house.diff('Line', 'a', 'b')).summary).to.include({
      changed: 20,
      added: 0,
      removed: 0,
      unchanged: 40,
    });
    expect((await house.diff('Line', 'b', 'c')).summary).to.include({
      changed: 20,
      added: 0,
      removed: 0,
      unchanged: 40,
    });
  });

  it('refuse the same build twice', async () => {
    const outcomes = await Promise.all(
      [1, 2].map(() => house.run('index', house.path('a'), '--title', 'Twice', '--build', '1')),
    );
    expect(outcomes.map(({ code }) => code).sort()).to.deep.equal([0, 1]);
    expect(outcomes.find(({ code }) => code === 1)?.errors).to.match(
      /is being indexed already|is indexed already/,
    );
  });
});
