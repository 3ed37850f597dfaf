import { expect } from 'chai';
import { TestHouse } from '../../tests/support/worvel.ts';
import { migrate } from '../database/migrate.ts';
import { change, selectOne } from '../database/rows.ts';
import { claimJob, createJob, findJob, finishJob, listJobs, ownerName, renewLease, resumeJob, returnJob, stopJob } from './queue.ts'; // prettier-ignore

const request = (build: string, replace = false) => ({
  source: '/games/ferry', title: 'Queue', channel: 'main', build, replace, threads: null,
}); // prettier-ignore
const progress = {
  phase: 'reading files', files: 1, totalFiles: null, bytes: 2, totalBytes: null, bytesPerSecond: 3, secondsLeft: null, seconds: 4,
} as const; // prettier-ignore
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
        if (job) claimed.push(job.id);
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
    expect(await claimJob(house.pool, ownerName())).to.deep.equal({ id, threads: null });
    await renewLease(house.pool, id, elsewhere, progress).then(
      () => expect.fail('the old runner should hear of it'),
      (error: Error) => expect(error.message).to.include('taken this job over'),
    );
  });

  it('takes the job of a dead process on this machine at once', async () => {
    const id = await createJob(house.pool, request('1'), `${ownerName().split('/')[0] ?? ''}/1-1`);
    expect((await claimJob(house.pool, ownerName()))?.id).to.equal(id);
  });

  it('stops, resumes and returns jobs', async () => {
    const id = await createJob(house.pool, request('1'), ownerName());
    expect(await renewLease(house.pool, id, ownerName(), progress)).to.equal(false);
    await stopJob(house.pool, id);
    expect(await renewLease(house.pool, id, ownerName(), progress)).to.equal(true);
    await finishJob(house.pool, id, { state: 'stopped', error: 'stopped' });
    expect(await findJob(house.pool, id)).to.deep.include({ state: 'stopped', error: 'stopped', progress });
    await resumeJob(house.pool, id);
    expect((await findJob(house.pool, id)).state).to.equal('waiting');
    await resumeJob(house.pool, id).then(
      () => expect.fail('it waits already'),
      (error: Error) => expect(error.message).to.include('stopped or has failed'),
    );
    await claimJob(house.pool, ownerName());
    await returnJob(house.pool, id);
    expect((await listJobs(house.pool)).map(({ state }) => state)).to.deep.equal(['waiting']);
    await stopJob(house.pool, id);
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
});
