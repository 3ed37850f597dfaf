import { expect } from 'chai';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import sharp from 'sharp';
import { jobSchema, type Job } from '../contract/work.ts';
import { seeded } from '../demo/seeded.ts';
import { findBuild } from '../server/acquire/builds/builds.ts';
import { selectOne } from '../server/platform/database/rows.ts';
import { putDemoBuild } from './support/demo-builds.ts';
import { expectSameState, until, untilRead } from './support/known-state.ts';
import { TestHouse } from './support/worvel.ts';

/** A build is there once its files are recorded; what is in them is read afterwards. */
describe('Builds that arrive before they are read', () => {
  const [whole, house] = [new TestHouse(), new TestHouse()];
  let url: string;
  const put = (path: string, bytes: string | Uint8Array): void => {
    mkdirSync(dirname(house.path('pictures', path)), { recursive: true });
    writeFileSync(house.path('pictures', path), bytes);
  };
  const jobs = async (): Promise<Job[]> =>
    jobSchema.array().parse(await (await fetch(`${url}/api/work`)).json());
  const factsCount = async (): Promise<number> =>
    (await selectOne<{ count: number }>(house.pool, 'SELECT COUNT(*) AS count FROM content_facts'))?.count ??
    0;
  const intake = async (build: string, title: string, source: string): Promise<number> => {
    const answer = await fetch(`${url}/api/intake`, {
      method: 'POST',
      body: JSON.stringify({ source, title, build }),
    });
    expect(answer.status).to.equal(201);
    return jobSchema.parse(await answer.json()).id;
  };

  before(async () => {
    await Promise.all([whole.open(), house.open()]);
    await whole.indexDemo();
    for (const label of ['0.1', '0.2'] as const) await putDemoBuild(label, house.path(label));
  });
  after(() => Promise.all([whole.close(), house.close()]));

  it('are searched and told apart by content before anything was read', async () => {
    for (const label of ['0.1', '0.2']) {
      const line = await house.index(house.path(label), 'Mossline Ferry', label, '--arrive');
      expect(line).to.include({ readSeconds: null });
    }
    expect(await factsCount()).to.equal(0);
    const { summary } = await house.diff('Mossline Ferry', '0.1', '0.2');
    const read = await whole.diff('Mossline Ferry', '0.1', '0.2');
    // What decodes to the same is known once it was decoded.
    const changed = ({ changed, repacked }: typeof summary): number => changed + repacked;
    expect(changed(summary)).to.equal(changed(read.summary));
    expect(summary).to.include({ repacked: 0, unchanged: read.summary.unchanged });
    expect(read.summary.repacked).to.be.greaterThan(0);
    const { output } = await house.run('search', 'lantern', '--title', 'Mossline Ferry', '--json');
    expect(output).to.include('lantern');
  });

  it('come to the same end, however often reading is killed', async () => {
    url = await house.serve(house.port);
    for (let kill = 0; kill < 3; kill++) {
      const before = await factsCount();
      await until('more facts', async () => (await factsCount()) > before, 60);
      if ((await findBuild(house.pool, 1, '0.2')).factsVersion !== null) break;
      await house.restart();
    }
    await untilRead(house, ['0.1', '0.2']);
    await expectSameState(house, whole);
  });

  it('are compared once they are read', async () => {
    await until('evidence', async () =>
      (await jobs()).some(({ kind, state }) => kind === 'evidence' && state === 'done'),
    );
    const done = (await jobs()).filter(({ state }) => state === 'done');
    const finished = (kind: Job['kind']): string =>
      done.find((job) => job.kind === kind && job.build === '0.2')?.finishedAt ?? '';
    expect(finished('evidence') > finished('read')).to.equal(true);
  });

  it('come in between while another one is being read', async () => {
    const random = seeded(7);
    for (let picture = 0; picture < 40; picture++) {
      const raw = Buffer.from(Uint8Array.from({ length: 700 * 700 * 3 }, () => random() * 256));
      const png = await sharp(raw, { raw: { width: 700, height: 700, channels: 3 } })
        .png({ compressionLevel: 1 })
        .toBuffer();
      put(`noise-${picture}.png`, png);
    }
    await intake('1', 'Pictures', house.path('pictures'));
    const isReading = async (): Promise<boolean> =>
      (await jobs()).some(
        ({ kind, state, title, progress }) =>
          kind === 'read' && state === 'running' && title === 'Pictures' && (progress?.files ?? 0) > 0,
      );
    await until('reading', isReading);
    mkdirSync(house.path('small'));
    writeFileSync(house.path('small', 'a.txt'), 'a line\n');
    const small = await intake('1', 'Small', house.path('small'));
    await until('the small build', async () =>
      (await jobs()).some(({ id, state }) => id === small && state === 'done'),
    );
    const reading = (await jobs()).find(({ kind, title }) => kind === 'read' && title === 'Pictures');
    expect(reading?.state).to.be.oneOf(['waiting', 'running']);
    await until('the rest', async () =>
      (await jobs()).some(({ id, state }) => id === reading?.id && state === 'done'),
    );
    const last = (await jobs()).find(({ id }) => id === reading?.id);
    expect(last?.attempts).to.be.greaterThan(1);
  });

  it('list what no reader makes sense of, and no longer once it is mended', async () => {
    put('broken.png', Buffer.from('89504e470d0a1a0a00000000', 'hex'));
    rmSync(house.path('pictures', 'noise-0.png'), { force: true });
    const problems = async (build: string): Promise<string[]> => {
      const channel = (await selectOne<{ id: number }>(
        house.pool,
        "SELECT c.id FROM channels c JOIN titles t ON t.id = c.title_id WHERE t.name = 'Pictures'",
      )) ?? { id: 0 };
      const answer = await fetch(`${url}/api/problems?channel=${channel.id}&build=${build}`);
      return ((await answer.json()) as { path: string }[]).map(({ path }) => path);
    };
    await house.index(house.path('pictures'), 'Pictures', '2');
    expect(await problems('2')).to.deep.equal(['broken.png']);
    // So it is in the next one, which says so as soon as it is there.
    await house.index(house.path('pictures'), 'Pictures', '3', '--arrive');
    expect(await problems('3')).to.deep.equal(['broken.png']);
    put(
      'broken.png',
      await sharp({ create: { width: 2, height: 2, channels: 3, background: 'red' } })
        .png()
        .toBuffer(),
    );
    await house.index(house.path('pictures'), 'Pictures', '4');
    expect(await problems('4')).to.deep.equal([]);
  });
});
