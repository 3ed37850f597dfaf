import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { zipSync, type Zippable } from 'fflate';
import { intakeRequestSchema } from '../contract/builds.ts';
import { seeded } from '../demo/seeded.ts';
import { select } from '../server/platform/database/rows.ts';
import { createJob } from '../server/acquire/builds/index-jobs.ts';
import { findJob } from '../server/jobs/jobs.ts';
import { TestHouse } from './support/worvel.ts';

/** Enough that a crash can come in the middle. */
function makeSource(folder: string): void {
  const random = seeded(21);
  const noise = (length: number): Buffer => {
    const bytes = Buffer.allocUnsafe(length - (length % 4));
    for (let at = 0; at < bytes.length; at += 4) bytes.writeUInt32LE((random() * 2 ** 32) >>> 0, at);
    return bytes;
  };
  for (let group = 0; group < 40; group++) {
    mkdirSync(join(folder, `group_${group}`), { recursive: true });
    for (let file = 0; file < 70; file++)
      writeFileSync(
        join(folder, `group_${group}`, `f${file}.${file % 3 === 0 ? 'txt' : 'bin'}`),
        noise(30_000),
      );
  }
  const entries: Zippable = {};
  for (let entry = 0; entry < 300; entry++) entries[`in/${entry}.bin`] = [noise(20_000), { level: 1 }];
  writeFileSync(join(folder, 'packed.zip'), zipSync(entries));
  writeFileSync(join(folder, 'large.bin'), noise(6_000_000));
}

/** Every row of a title's only build, without the numbers that the tables give by themselves. */
async function rowsOf(house: TestHouse, title: string): Promise<string[]> {
  const rows = await select<Record<string, unknown>>(
    house.pool,
    `SELECT p.path, s.first_sequence AS first, s.last_sequence AS last, s.role, s.format, s.by_extension AS manner, s.size,
         HEX(s.hash) AS hash, HEX(s.target_digest) AS target, HEX(s.unit_digest) AS unit, HEX(s.packed_hash) AS packed,
         f.facts, f.reason, c.size AS stored
       FROM asset_spans s JOIN paths p ON p.digest = s.path_digest JOIN channels ch ON ch.id = s.channel_id
       JOIN titles t ON t.id = ch.title_id LEFT JOIN contents c ON c.hash = s.hash
       LEFT JOIN content_facts f ON f.hash = s.hash AND f.format = s.format WHERE t.name = ?`,
    [title],
  );
  return rows.map((row) => JSON.stringify(row)).sort();
}

describe('A crash in the middle of indexing', () => {
  // Each has a house of its own: contents that one has stored would make the next one quicker.
  let house: TestHouse;
  let undisturbed: string[] = [];
  const source = (): string => house.path('source');
  const until = async (look: () => Promise<boolean>): Promise<void> => {
    for (const end = Date.now() + 200_000; Date.now() < end; await sleep(20)) if (await look()) return;
    throw new Error('it did not come to pass in time');
  };
  const isInTheMiddle = async (id: number): Promise<boolean> => {
    const [row] = await select<{ count: number }>(
      house.pool,
      'SELECT COUNT(*) AS count FROM intake_sources WHERE job_id = ?',
      [id],
    );
    return (row?.count ?? 0) > 200;
  };
  const isDone = async (id: number): Promise<boolean> => {
    const { state, error } = await findJob(house.pool, id);
    if (state === 'failed') throw new Error(error ?? '');
    return state === 'done';
  };
  const newJob = (): Promise<number> =>
    createJob(
      house.pool,
      intakeRequestSchema.parse({ source: source(), title: 'Crash', build: '1', threads: 2 }),
      null,
    );

  before(async () => {
    house = new TestHouse();
    await house.open();
    makeSource(source());
    await house.index(source(), 'Crash', '1');
    undisturbed = await rowsOf(house, 'Crash');
    expect(undisturbed.length).to.equal(40 * 70 + 300 + 2);
    await house.close();
  });
  const openHouse = async (hasOwnMariadb: boolean): Promise<void> => {
    house = new TestHouse({ hasOwnMariadb });
    await house.open();
    makeSource(source());
    // Makes the tables.
    await house.run('search', '--title', 'none', 'nothing');
  };
  beforeEach(() => openHouse(false));
  afterEach(() => house.close());

  it('of the server: its next start goes on, and the rows are those of a run that was left alone', async () => {
    await house.serve(house.port);
    const id = await newJob();
    await until(() => isInTheMiddle(id));
    await house.restart();
    await until(() => isDone(id));
    expect((await findJob(house.pool, id)).attempts).to.equal(2);
    expect(await rowsOf(house, 'Crash')).to.deep.equal(undisturbed);
  });

  it('of a worker: another worker goes on', async () => {
    const id = await newJob();
    const first = house.start(['work']);
    await until(() => isInTheMiddle(id));
    const ended = new Promise((resolve) => first.on('exit', resolve));
    first.kill('SIGKILL');
    await ended;
    expect((await findJob(house.pool, id)).state).to.equal('running');
    house.start(['work']);
    await until(() => isDone(id));
    expect(await rowsOf(house, 'Crash')).to.deep.equal(undisturbed);
  });

  it('of MariaDB: started again, the job goes on', async () => {
    await house.close();
    await openHouse(true);
    await house.serve(house.port);
    const id = await newJob();
    await until(() => isInTheMiddle(id));
    const { mark } = JSON.parse(readFileSync(join(house.folder.database, 'running.json'), 'utf8')) as {
      mark: string;
    };
    process.kill(Number.parseInt(mark, 10), 'SIGKILL');
    await sleep(1500);
    await house.reopen();
    await house.restart();
    await until(async () => {
      const { state } = await findJob(house.pool, id);
      // The server may have seen it fail before it was killed.
      if (state === 'failed')
        await fetch(`http://127.0.0.1:${house.port}/api/work/${id}/resume`, { method: 'POST' });
      return state === 'done';
    });
    expect(await rowsOf(house, 'Crash')).to.deep.equal(undisturbed);
  });

  it('by a full disk: it is told as that, and goes on when there is room', async function () {
    const store = house.folder.store;
    rmSync(store, { recursive: true, force: true });
    mkdirSync(store);
    // A small disk of its own for the contents. Mounting needs root, which tests have on their machine.
    const mount = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=30m', 'tmpfs', store], { encoding: 'utf8' });
    if (mount.status !== 0) this.skip();
    try {
      const full = await house.run('index', source(), '--title', 'Crash', '--build', '1');
      expect(full.code).to.equal(1);
      expect(full.errors).to.include('disk is full');
      expect(await rowsOf(house, 'Crash')).to.deep.equal([]);
      spawnSync('mount', ['-o', 'remount,size=400m', store]);
      const { code, errors } = await house.run('index', source(), '--title', 'Crash', '--build', '1');
      expect(code, errors).to.equal(0);
      expect(await rowsOf(house, 'Crash')).to.deep.equal(undisturbed);
      expect((await house.run('check')).code).to.equal(0);
    } finally {
      spawnSync('umount', ['-l', store]);
    }
  });
});
