import { expect } from 'chai';
import { setTimeout as sleep } from 'node:timers/promises';
import * as z from 'zod';
import type { Progress } from '../../contract/work.ts';
import { failureOf } from '../../tests/support/failure.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { migrate } from '../platform/database/migrate.ts';
import { change, select } from '../platform/database/rows.ts';
import { NotFoundError } from '../platform/plain-error.ts';
import { ownerName } from '../platform/process-mark.ts';
import { defineJob, type JobContext, type JobDefinition } from './define-job.ts';
import { findJob } from './jobs.ts';
import { addJob, claimJob, haltJob } from './queue.ts';
import { runJob } from './run-job.ts';
import { StoppedError } from './stop.ts';

const paramsSchema = z.object({ words: z.string() });
type Context = JobContext<z.infer<typeof paramsSchema>, { bell: string }>;

/** What holds for every job, whatever it does. */
describe('runJob', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    await migrate(house.pool);
  });
  after(() => house.close());
  afterEach(() => change(house.pool, 'DELETE FROM jobs'));

  const add = async (params: unknown, owner: string | null = ownerName()): Promise<number> => {
    const id = await addJob(house.pool, {
      kind: 'check',
      buildId: null,
      subject: 'reeds',
      params,
      priority: 0,
      exclusive: false,
    });
    if (owner !== null) expect(await claimJob(house.pool, owner, id)).to.equal(id);
    return id;
  };
  const run = (
    jobId: number,
    work: (context: Context) => Promise<{ report?: { summary: string; lines: string[] } }>,
    more: { signal?: AbortSignal; onProgress?: (progress: Progress) => void } = {},
  ): ReturnType<typeof runJob> =>
    runJob(
      () =>
        defineJob({ kind: 'check', params: paramsSchema, run: work }) as unknown as JobDefinition<
          unknown,
          { bell: string }
        >,
      {
        jobId,
        owner: ownerName(),
        address: house.databaseAddress,
        folder: house.folder,
        services: { bell: 'rings' },
        signal: more.signal ?? new AbortController().signal,
        onProgress: more.onProgress,
      },
    );

  it('gives a job what it was made with, and its result back', async () => {
    const id = await add({ words: 'alder' });
    const { report } = await run(id, ({ params, subject, services, buildId, threads }) =>
      Promise.resolve({
        report: {
          summary: [params.words, subject, services.bell, buildId, threads > 0].join(' '),
          lines: [],
        },
      }),
    );
    expect(report?.summary).to.equal('alder reeds rings  true');
  });

  it('tells how far it is, and writes it down', async () => {
    const id = await add({ words: '' });
    const told: Progress[] = [];
    await run(
      id,
      async ({ meter, count, reportProgress }) => {
        meter.begin('checking contents', 10, 100);
        count(4, 40);
        await reportProgress();
        count(10, 100);
        return {};
      },
      { onProgress: (progress) => told.push(progress) },
    );
    expect(told.map(({ files, totalFiles }) => [files, totalFiles])).to.deep.equal([
      [4, 10],
      [10, 10],
    ]);
    expect((await findJob(house.pool, id)).progress).to.include({ phase: 'checking contents', bytes: 100 });
  });

  it('refuses parameters that do not fit before anything is done', async () => {
    const id = await add({ words: 7 });
    let hasRun = false;
    const error = await failureOf(
      run(id, () => {
        hasRun = true;
        return Promise.resolve({});
      }),
    );
    expect(error.name).to.equal('ZodError');
    expect(hasRun).to.equal(false);
    expect(await failureOf(run(1e9, () => Promise.resolve({})))).to.be.instanceOf(NotFoundError);
  });

  it('hears within a second that somebody stopped it, also while it reports nothing', async () => {
    const id = await add({ words: '' });
    const begun = Date.now();
    let heardMs = 0;
    const running = failureOf(
      run(id, async ({ signal }) => {
        await haltJob(house.pool, id, 'stop');
        const asked = Date.now();
        while (!signal.aborted && Date.now() - begun < 5000) await sleep(10);
        heardMs = Date.now() - asked;
        signal.throwIfAborted();
        return {};
      }),
    );
    expect(await running).to.be.instanceOf(StoppedError);
    expect(heardMs).to.be.below(1500);
  });

  it('stops with the process that runs it, also one that is stopped before it begins', async () => {
    const id = await add({ words: '' });
    const stop = new AbortController();
    const error = await failureOf(
      run(
        id,
        ({ signal }) => {
          stop.abort();
          signal.throwIfAborted();
          return Promise.resolve({});
        },
        { signal: stop.signal },
      ),
    );
    expect(error).to.be.instanceOf(StoppedError);
    let hasRun = false;
    const late = await failureOf(
      run(
        id,
        () => {
          hasRun = true;
          return Promise.resolve({});
        },
        { signal: AbortSignal.abort() },
      ),
    );
    expect([late instanceof StoppedError, hasRun]).to.deep.equal([true, false]);
  });

  it('ends a job that was taken over by another process meanwhile', async () => {
    const id = await add({ words: '' });
    const error = await failureOf(
      run(id, async ({ reportProgress }) => {
        await change(house.pool, "UPDATE jobs SET owner = 'another-machine/1-1' WHERE id = ?", [id]);
        await reportProgress();
        return {};
      }),
    );
    expect(error.message).to.include('taken this job over');
  });

  it('runs a job within a job, and writes down how that one ended', async () => {
    const outer = await add({ words: 'outer' });
    const inner = await add({ words: 'inner' });
    const work = async ({ params, runWithin }: Context): ReturnType<typeof run> =>
      params.words === 'outer'
        ? runWithin(inner)
        : { report: { summary: `${params.words} is done`, lines: [] } };
    expect((await run(outer, work)).report?.summary).to.equal('inner is done');
    expect(await findJob(house.pool, inner)).to.deep.include({ state: 'done' });
    // Its failure is its own, and that of the job around it.
    const next = await add({ words: 'inner' });
    const failing = await failureOf(
      run(outer, ({ params, runWithin }) =>
        params.words === 'outer' ? runWithin(next) : Promise.reject(new Error('the reeds are gone')),
      ),
    );
    expect(failing.message).to.equal('the reeds are gone');
    expect(await findJob(house.pool, next)).to.deep.include({ state: 'failed', error: 'the reeds are gone' });
  });

  it('lets go of its connections however it ends', async () => {
    const connections = async (): Promise<number> =>
      (await select<{ Id: number }>(house.pool, 'SHOW PROCESSLIST')).length;
    const before = await connections();
    for (let round = 0; round < 30; round++) {
      const id = await add({ words: '' });
      await failureOf(run(id, () => Promise.reject(new Error('no'))));
    }
    // The server takes a moment to see that one has gone.
    for (let look = 0; look < 50 && (await connections()) > before; look++) await sleep(20);
    expect(await connections()).to.be.at.most(before);
  });
});
