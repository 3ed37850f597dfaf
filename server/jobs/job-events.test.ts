import { expect } from 'chai';
import { setTimeout as sleep } from 'node:timers/promises';
import type { JobsEvent } from '../../contract/work.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { migrate } from '../platform/database/migrate.ts';
import { change } from '../platform/database/rows.ts';
import { JobEvents } from './job-events.ts';
import { addJob } from './queue.ts';

describe('JobEvents', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    await migrate(house.pool);
  });
  after(() => house.close());

  const add = (subject: string): Promise<number> =>
    addJob(house.pool, { kind: 'check', buildId: null, subject, params: null, owner: null });
  const until = async (holds: () => boolean): Promise<void> => {
    for (const end = Date.now() + 5000; !holds();) {
      if (Date.now() > end) throw new Error('it did not come');
      await sleep(20);
    }
  };

  it('tell all jobs first, then what changed, to each who listens', async () => {
    const first = await add('one');
    const events = new JobEvents(house.pool);
    const heard: JobsEvent[] = [];
    const leave = events.listen((event) => heard.push(event));
    await until(() => heard.length === 1);
    expect(heard[0]).to.deep.include({ isAll: true, gone: [] });
    expect(heard[0]?.jobs.map(({ subject }) => subject)).to.deep.equal(['one']);
    const second = await add('two');
    await until(() => heard.length === 2);
    expect(heard[1]).to.deep.include({ isAll: false, gone: [] });
    expect(heard[1]?.jobs.map(({ id }) => id)).to.deep.equal([second]);
    // Who comes later is told all at once, and nothing twice.
    const later: JobsEvent[] = [];
    const leaveToo = events.listen((event) => later.push(event));
    await until(() => later.length === 1);
    expect(later[0]?.isAll).to.equal(true);
    expect(later[0]?.jobs.map(({ id }) => id).sort()).to.deep.equal([first, second]);
    await change(house.pool, 'DELETE FROM jobs WHERE id = ?', [first]);
    await until(() => heard.length === 3 && later.length === 2);
    expect(heard[2]).to.deep.equal({ isAll: false, jobs: [], gone: [first] });
    expect(later[1]).to.deep.equal(heard[2]);
    leave();
    leaveToo();
    await add('three');
    await sleep(900);
    expect(heard).to.have.length(3);
  });
});
