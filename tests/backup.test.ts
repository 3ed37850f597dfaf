import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { backupRecordSchema } from '../contract/backups.ts';
import { openDataFolder } from '../server/platform/data-folder.ts';
import { openPool, type Pool } from '../server/platform/database/pool.ts';
import { shareDatabase } from '../server/platform/database/private-mariadb.ts';
import { change, select } from '../server/platform/database/rows.ts';
import { createEntry } from '../server/publishing/entries/entries.ts';
import { TestHouse } from './support/worvel.ts';

/** All rows of all tables but those that tell of who is at work, each table as text in the order of its rows. */
async function everything(pool: Pool): Promise<Map<string, string>> {
  const tables = await select<Record<string, string>>(pool, 'SHOW TABLES');
  const found = new Map<string, string>();
  for (const name of tables.map((row) => Object.values(row)[0] ?? '').sort()) {
    if (name === 'jobs') continue;
    const rows = await select<object>(pool, `SELECT * FROM \`${name}\``);
    found.set(
      name,
      rows
        .map((row) => JSON.stringify(row))
        .sort()
        .join('\n'),
    );
  }
  return found;
}

describe('A backup', () => {
  const house = new TestHouse({ hasOwnMariadb: true });
  const backup = house.path('backup');
  const restored = house.path('restored');
  const ownData = ['--data', restored];
  before(async () => {
    await house.open();
    await house.indexDemo();
    await createEntry(
      house.pool,
      { channelId: 1, name: 'Lamplight', state: 'published', paths: ['music/lamplight.wav'] },
      'Ada',
    );
    const published = await house.run('publish', '--title', 'Mossline Ferry', '--out', house.path('site'));
    expect(published.code, published.errors).to.equal(0);
  });
  after(() => house.close());

  it('is made while the server works and others bring builds in', async () => {
    await house.serve(house.port);
    const game = house.path('busy');
    mkdirSync(game);
    for (let at = 0; at < 300; at++) writeFileSync(join(game, `${at}.bin`), Buffer.alloc(20_000, at));
    const indexing = house.run('index', game, '--title', 'Busy', '--build', '1');
    const { code, output, errors } = await house.run('backup', backup);
    expect(code, errors).to.equal(0);
    expect(output).to.match(/^A backup of .+ in \d+ files is in /);
    expect(output).to.include('It holds the master key');
    expect((await indexing).code).to.equal(0);
    await house.stopServer();
    const record = backupRecordSchema.parse(JSON.parse(readFileSync(join(backup, 'backup.json'), 'utf8')));
    for (const { path, sha256 } of record.files)
      expect(
        execFileSync('sha256sum', [join(backup, path)], { encoding: 'utf8' }).slice(0, 64),
        path,
      ).to.equal(sha256);
    expect(statSync(join(backup, 'master.key')).mode & 0o077).to.equal(0);
  });

  it('is restored into a new data folder, whole', async () => {
    const quiet = house.path('quiet-backup');
    expect((await house.run('backup', quiet)).code).to.equal(0);
    const { code, output, errors } = await house.run('restore', quiet, ...ownData);
    expect(code, errors).to.equal(0);
    expect(output).to.match(/^\d+ files were restored into /);
    const database = await shareDatabase(openDataFolder(restored));
    const pool = openPool(database.address, 2);
    try {
      const [ours, theirs] = [await everything(house.pool), await everything(pool)];
      expect([...theirs.keys()]).to.deep.equal([...ours.keys()]);
      for (const [table, rows] of ours) expect(theirs.get(table), table).to.equal(rows);
      const open = await select(pool, "SELECT id FROM jobs WHERE state IN ('waiting', 'running')");
      expect(open).to.deep.equal([]);
    } finally {
      await pool.end();
      await database.release();
    }
    // Every content is there, and the key that signed is the same one.
    const check = await house.run('check', ...ownData);
    expect(check.code, check.output).to.equal(0);
    const again = await house.run(
      'publish',
      '--title',
      'Mossline Ferry',
      '--out',
      house.path('site'),
      ...ownData,
    );
    expect(again.code, again.errors).to.equal(0);
    expect(again.output).to.include('Edition 2 with 1 entry');
  });

  it('that is damaged, of a newer version or not whole is refused, and nothing is changed', async () => {
    const target = house.path('untouched');
    const restore = async (folder: string): Promise<string> => {
      const { code, errors } = await house.run('restore', folder, '--data', target);
      expect(code).to.equal(1);
      expect(existsSync(target) ? readdirSync(target) : []).to.deep.equal([]);
      expect(existsSync(`${target}.restoring`)).to.equal(false);
      return errors;
    };
    const copy = (name: string): string => {
      const folder = house.path(name);
      execFileSync('cp', ['-r', backup, folder]);
      return folder;
    };
    const damaged = copy('damaged');
    appendFileSync(join(damaged, 'database.sql.gz'), 'x');
    expect(await restore(damaged)).to.include('database.sql.gz is not as it was written');
    const lacking = copy('lacking');
    const [pack = ''] = readdirSync(join(lacking, 'store', 'packs'));
    rmSync(join(lacking, 'store', 'packs', pack));
    expect(await restore(lacking)).to.include(`store/packs/${pack} cannot be read`);
    const unfinished = copy('unfinished');
    rmSync(join(unfinished, 'backup.json'));
    expect(await restore(unfinished)).to.include('it has no backup.json, which is written last');
    const text = readFileSync(join(backup, 'backup.json'), 'utf8');
    const newer = copy('newer');
    writeFileSync(join(newer, 'backup.json'), text.replace('"001-first.sql"', '"999-later.sql"'));
    expect(await restore(newer)).to.include('is of a newer version of Worvel');
    const hostile = copy('hostile');
    writeFileSync(join(hostile, 'backup.json'), text.replace('"database.sql.gz"', '"../../evil"'));
    expect(await restore(hostile)).to.include('leads out of the backup');
  });

  it('is never restored over something, nor made over something', async () => {
    const onto = await house.run('restore', backup, ...ownData);
    expect(onto.code).to.equal(1);
    expect(onto.errors).to.include('holds something already: a backup is restored into a new one');
    const twice = await house.run('backup', backup);
    expect(twice.code).to.equal(1);
    expect(twice.errors).to.include('holds something already');
    const inside = await house.run('backup', join(house.data, 'backup'));
    expect(inside.errors).to.include('which Worvel reads: choose another folder.');
  });

  it('of a database that a newer version has been at is not needed: the database is refused as it is', async () => {
    await change(house.pool, "INSERT INTO migrations (name) VALUES ('999-later.sql')");
    const { code, errors } = await house.run('search', 'lamp', '--title', 'Mossline Ferry');
    expect(code).to.equal(1);
    expect(errors).to.include('was brought up to date by a newer version of Worvel (999-later.sql)');
    await change(house.pool, "DELETE FROM migrations WHERE name = '999-later.sql'");
  });
});
