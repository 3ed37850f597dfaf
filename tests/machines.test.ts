import { expect } from 'chai';
import { type ChildProcess } from 'node:child_process';
import { setTimeout as sleep } from 'node:timers/promises';
import { jobSchema, type Job } from '../contract/work.ts';
import { change, select, selectOne } from '../server/platform/database/rows.ts';
import { putDemoBuild } from './support/demo-builds.ts';
import { expectSameState, until, untilRead } from './support/known-state.ts';
import { TestObjectStore } from './support/object-store.ts';
import { addressUrl } from './support/shared-database.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const title = 'Mossline Ferry';

/** Two servers and their workers, which share a database and an object store, and no folder. */
describe('Several machines', () => {
  const [whole, one, two] = [new TestHouse(), new TestHouse(), new TestHouse()];
  const objects = new TestObjectStore();
  const environment = (): Record<string, string> => ({
    ...objects.environment,
    WORVEL_DATABASE_URL: addressUrl(one.databaseAddress),
  });
  const machines = { one, two } as const;
  const running = new Map<string, ChildProcess>();
  const ports = { one: testPort(1), two: testPort(2) };
  const start = (machine: keyof typeof machines, what: 'serve' | 'work', number: number): void => {
    const args = what === 'serve' ? ['serve', '--port', String(ports[machine])] : ['work'];
    running.set(`${machine} ${what} ${number}`, machines[machine].start(args, environment()));
  };
  const kill = async (name: string): Promise<void> => {
    const child = running.get(name);
    if (!child) throw new Error(`there is no ${name}`);
    const ended = new Promise((resolve) => child.on('exit', resolve));
    child.kill('SIGKILL');
    await ended;
    running.delete(name);
  };
  const answers = async (machine: keyof typeof machines): Promise<void> => {
    for (const end = Date.now() + 60_000; Date.now() < end; await sleep(100))
      try {
        if ((await fetch(`http://127.0.0.1:${ports[machine]}/api/health`)).ok) return;
      } catch {
        // Not listening yet.
      }
    throw new Error(`${machine} does not answer`);
  };
  const get = async (machine: keyof typeof machines, path: string): Promise<Response> =>
    fetch(`http://127.0.0.1:${ports[machine]}/api/${path}`);
  const jobs = async (machine: keyof typeof machines): Promise<Job[]> =>
    jobSchema.array().parse(await (await get(machine, 'work')).json());

  before(async () => {
    await Promise.all([whole.open(), one.open(), two.open(), objects.open()]);
    await whole.indexDemo();
    for (const label of ['0.1', '0.2'] as const) await putDemoBuild(label, one.path(label));
    for (const machine of ['one', 'two'] as const) start(machine, 'serve', 0);
    await Promise.all([answers('one'), answers('two')]);
    for (const machine of ['one', 'two'] as const)
      for (const number of [1, 2]) start(machine, 'work', number);
  });
  after(async () => {
    for (const name of [...running.keys()]) await kill(name);
    await Promise.all([whole.close(), one.close(), two.close()]);
    await objects.close();
  });

  it('come to the same end as one, whoever of them is killed', async () => {
    for (const build of ['0.1', '0.2']) {
      const answer = await fetch(`http://127.0.0.1:${ports.one}/api/intake`, {
        method: 'POST',
        body: JSON.stringify({ source: one.path(build), title, build }),
      });
      expect(answer.status).to.equal(201);
    }
    await until('the first build', async () => (await jobs('two')).some(({ state }) => state === 'done'));
    await kill('one work 1');
    await kill('two work 1');
    start('two', 'work', 1);
    await until('the second build', async () =>
      (await jobs('two')).some(
        ({ kind, build, state }) => kind === 'index' && build === '0.2' && state === 'done',
      ),
    );
    // Whoever reads now is killed too; a lease runs out where nobody sees the process.
    await kill('two work 2');
    await untilRead(one, ['0.1', '0.2']);
    await expectSameState(one, whole);
  });

  it('show what another one brought in', async () => {
    const [asset] = await select<{ path: string; hash: Buffer; size: number }>(
      one.pool,
      `SELECT p.path, s.hash, s.size FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
        WHERE s.role = 0 AND s.format = 'png' LIMIT 1`,
    );
    const answer = await get('two', `content/${asset?.hash.toString('hex')}?format=png`);
    expect(answer.status).to.equal(200);
    expect((await answer.arrayBuffer()).byteLength).to.equal(Number(asset?.size));
    const preview = await get('two', `preview/${asset?.hash.toString('hex')}?format=png`);
    expect(preview.headers.get('content-type')).to.equal('image/webp');
  });

  it('leave what lies on one of them to that one', async () => {
    const places = await select<{ kind: string; place: string | null }>(
      one.pool,
      'SELECT DISTINCT kind, place FROM jobs',
    );
    expect(places.filter(({ kind }) => kind === 'index').map(({ place }) => place)).to.deep.equal([
      one.folder.place,
    ]);
    expect(places.filter(({ kind }) => kind === 'read').map(({ place }) => place)).to.deep.equal([null]);
    // Nobody is left where it lies: it waits, and the others go on with other work.
    for (const name of [...running.keys()].filter((name) => name.startsWith('one'))) await kill(name);
    await change(one.pool, "DELETE FROM jobs WHERE state = 'waiting'");
    const answer = await fetch(`http://127.0.0.1:${ports.two}/api/check`, { method: 'POST', body: '{}' });
    await change(
      one.pool,
      `INSERT INTO jobs (state, build_id, replaces, source, priority, place)
       SELECT 'waiting', id, 1, source, 5, ? FROM builds LIMIT 1`,
      [one.folder.place],
    );
    expect(answer.ok).to.equal(true);
    await until('checking', async () =>
      (await jobs('two')).some(({ kind, state }) => kind === 'check' && state === 'done'),
    );
    const left = await selectOne<{ state: string }>(
      one.pool,
      "SELECT state FROM jobs WHERE kind = 'index' ORDER BY id DESC LIMIT 1",
    );
    expect(left?.state).to.equal('waiting');
  });
});
