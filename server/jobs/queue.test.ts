import { expect } from 'chai';
import { intakeRequestSchema } from '../../contract/builds.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { migrate } from '../platform/database/migrate.ts';
import { change, selectOne } from '../platform/database/rows.ts';
import { ownerName } from '../platform/process-mark.ts';
import { createJob } from '../acquire/builds/index-jobs.ts';
import { findJob, listJobs } from './jobs.ts';
import {
  addJob,
  claimJob,
  finishJob,
  haltJob,
  isToMakeRoom,
  renewLease,
  resumeJob,
  returnJob,
  setPriority,
} from './queue.ts';

const request = (build: string, replace = false) =>
  intakeRequestSchema.parse({ source: '/games/ferry', title: 'Queue', build, replace });
const progress = {
  phase: 'reading files',
  files: 1,
  totalFiles: null,
  bytes: 2,
  totalBytes: null,
  bytesPerSecond: 3,
  secondsLeft: null,
  seconds: 4,
} as const;
const elsewhere = 'another-machine/1-1';

describe('The queue', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    await migrate(house.pool);
  });
  after(() => house.close());
  afterEach(async () => {
    await change(house.pool, 'DELETE FROM jobs');
    await change(house.pool, 'DELETE FROM builds');
  });

  it('hands each job out once, oldest first, however many ask at once', async () => {
    const made: number[] = [];
    for (let build = 0; build < 12; build++)
      made.push(await createJob(house.pool, request(String(build)), null));
    const claimed: number[] = [];
    const work = async (): Promise<void> => {
      for (;;) {
        const job = await claimJob(house.pool, ownerName());
        if (job !== null) claimed.push(job);
        else if (claimed.length >= made.length) return;
      }
    };
    await Promise.all([work(), work(), work(), work()]);
    expect([...claimed].sort((a, b) => a - b)).to.deep.equal(made);
  });

  it('lets a job whose lease ran out be taken over, and tells its old runner', async () => {
    const id = await createJob(house.pool, request('1'), elsewhere);
    expect(await claimJob(house.pool, ownerName())).to.equal(null);
    await change(house.pool, 'UPDATE jobs SET lease_until = NOW(3) - INTERVAL 1 SECOND');
    expect(await claimJob(house.pool, ownerName())).to.equal(id);
    await renewLease(house.pool, id, elsewhere, progress, []).then(
      () => expect.fail('the old runner should hear of it'),
      (error: Error) => expect(error.message).to.include('taken this job over'),
    );
  });

  it('takes the job of a dead process on this machine at once', async () => {
    const id = await createJob(house.pool, request('1'), `${ownerName().split('/')[0] ?? ''}/1-1`);
    expect(await claimJob(house.pool, ownerName())).to.equal(id);
  });

  it('stops, resumes and returns jobs', async () => {
    const id = await createJob(house.pool, request('1'), ownerName());
    expect(await renewLease(house.pool, id, ownerName(), progress, [])).to.equal(false);
    await haltJob(house.pool, id, 'stop');
    expect(await renewLease(house.pool, id, ownerName(), progress, [])).to.equal(true);
    await finishJob(house.pool, id, { state: 'stopped', error: 'stopped' });
    expect(await findJob(house.pool, id)).to.deep.include({ state: 'stopped', error: 'stopped', progress });
    await resumeJob(house.pool, id);
    expect((await findJob(house.pool, id)).state).to.equal('waiting');
    await resumeJob(house.pool, id).then(
      () => expect.fail('it waits already'),
      (error: Error) => expect(error.message).to.include('paused or stopped, or that has failed'),
    );
    await claimJob(house.pool, ownerName());
    await returnJob(house.pool, id);
    expect((await listJobs(house.pool)).map(({ state }) => state)).to.deep.equal(['waiting']);
    await haltJob(house.pool, id, 'stop');
    expect((await findJob(house.pool, id)).state).to.equal('stopped');
  });

  it('refuses a build that is there or on its way, and takes up one that was stopped', async () => {
    const id = await createJob(house.pool, request('1'), ownerName());
    const refused = async (replace: boolean): Promise<string> =>
      createJob(house.pool, request('1', replace), null).then(
        () => '',
        (error: Error) => error.message,
      );
    expect(await refused(false)).to.equal('The build 1 is being indexed already.');
    await finishJob(house.pool, id, { state: 'stopped', error: 'stopped' });
    expect(await createJob(house.pool, request('1'), null)).to.equal(id);
    await change(house.pool, "UPDATE jobs SET state = 'done'");
    await change(house.pool, 'UPDATE builds SET sequence = 1');
    expect(await refused(false)).to.include('is indexed already; say --replace');
    expect(await refused(true)).to.equal('');
    expect(await selectOne(house.pool, 'SELECT COUNT(*) AS count FROM jobs')).to.deep.equal({ count: 2 });
  });

  it('hands out the highest priority first, and lets what frees space run alone', async () => {
    const late = await createJob(house.pool, request('1'), null);
    const early = await createJob(house.pool, { ...request('2'), priority: 3 }, null);
    const check = await addJob(house.pool, {
      kind: 'check',
      buildId: null,
      subject: 'store',
      params: null,
      priority: 1,
      exclusive: true,
    });
    expect(await claimJob(house.pool, ownerName())).to.equal(early);
    // The check waits for the job that runs, and the rest for the check.
    expect(await claimJob(house.pool, ownerName())).to.equal(null);
    await setPriority(house.pool, late, 2);
    expect(await claimJob(house.pool, ownerName())).to.equal(late);
    await finishJob(house.pool, early, { state: 'failed', error: 'no' });
    await finishJob(house.pool, late, { state: 'failed', error: 'no' });
    expect(await claimJob(house.pool, ownerName())).to.equal(check);
    await createJob(house.pool, request('3'), null);
    expect(await claimJob(house.pool, ownerName())).to.equal(null);
  });

  it('pauses a job that runs or waits, and lets it go on', async () => {
    const id = await createJob(house.pool, request('1'), null);
    await claimJob(house.pool, ownerName());
    await haltJob(house.pool, id, 'pause');
    expect(await renewLease(house.pool, id, ownerName(), progress, [[1, 3]])).to.equal(true);
    await finishJob(house.pool, id, { state: 'stopped', error: 'stopped' });
    expect(await findJob(house.pool, id)).to.deep.include({ state: 'paused', attempts: 1, speeds: [[1, 3]] });
    expect(await claimJob(house.pool, ownerName())).to.equal(null);
    await resumeJob(house.pool, id);
    await haltJob(house.pool, id, 'pause');
    expect((await findJob(house.pool, id)).state).to.equal('paused');
    await haltJob(house.pool, id, 'stop');
    expect((await findJob(house.pool, id)).state).to.equal('stopped');
  });

  it('has background work make room for what waits and is not', async () => {
    const add = (priority: number): Promise<number> =>
      addJob(house.pool, { kind: 'check', buildId: null, subject: '', params: null, priority });
    const background = await add(-1);
    await claimJob(house.pool, ownerName(), background);
    expect(await isToMakeRoom(house.pool, background)).to.equal(false);
    // Other background work waits for its turn.
    await add(-2);
    expect(await isToMakeRoom(house.pool, background)).to.equal(false);
    // What has to be done elsewhere would wait for ever.
    const params = { kind: 'check', buildId: null, subject: '', params: null } as const;
    const elsewhereOnly = await addJob(house.pool, { ...params, place: 'elsewhere' });
    expect(await isToMakeRoom(house.pool, background, 'here')).to.equal(false);
    expect(await claimJob(house.pool, ownerName(), elsewhereOnly, 'here')).to.equal(null);
    expect(await isToMakeRoom(house.pool, background, 'elsewhere')).to.equal(true);
    await change(house.pool, 'DELETE FROM jobs WHERE id = ?', [elsewhereOnly]);
    const wanted = await add(0);
    expect(await isToMakeRoom(house.pool, background)).to.equal(true);
    await claimJob(house.pool, ownerName(), wanted);
    expect(await isToMakeRoom(house.pool, background)).to.equal(false);
    await add(3);
    expect(await isToMakeRoom(house.pool, wanted)).to.equal(false);
  });
});
