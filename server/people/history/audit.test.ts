import { expect } from 'chai';
import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { getJson } from '../../../cli/connection.ts';
import { change } from '../../platform/database/rows.ts';
import { correctFamilies } from '../../library/families/corrections.ts';
import { addDeed, readAudit } from './audit.ts';

describe('The audit', () => {
  const house = new TestHouse();
  const author = { by: 'Ada', seen: null };
  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    for (const name of ['a.txt', 'b.txt']) writeFileSync(house.path('game', name), name);
    await house.index(house.path('game'), 'Audited', '1');
    await correctFamilies(house.pool, 1, { paths: ['a.txt'], with: 'b.txt', undo: false }, author);
    await correctFamilies(
      house.pool,
      1,
      { paths: ['b.txt'], with: null, undo: false },
      { ...author, by: 'Bo' },
    );
    await addDeed(house.pool, 1, 'Ada', 'published edition 1');
  });
  after(() => house.close());

  it('tells who did what, in order, each with the seal of all that came before', async () => {
    const { rows, broken } = await readAudit(house.pool, 1, 0, 100);
    expect(broken).to.equal('');
    expect(rows.map(({ number, by, what }) => [number, by, what])).to.deep.equal([
      [1, 'Ada', 'a.txt belongs with b.txt'],
      [2, 'Bo', 'b.txt belongs to no family'],
      [3, 'Ada', 'published edition 1'],
    ]);
    expect(rows[0]?.items).to.deep.equal([{ item: 'a.txt', before: null, after: '{"with":"b.txt"}' }]);
    // By hand, from what is exported: anybody can check it.
    const [one] = rows;
    const text = JSON.stringify([
      ...[1, one?.id, 1, 1, null, null, 'families', one?.what, 'Ada', one?.at, one?.from],
      [['a.txt', null, '{"with":"b.txt"}']],
    ]);
    const seal = createHash('sha256').update(Buffer.alloc(32)).update(text).digest('hex');
    expect(one?.seal).to.equal(seal);
  });

  it('goes on page by page', async () => {
    const first = await readAudit(house.pool, 1, 0, 2);
    const second = await readAudit(house.pool, 1, 2, 2);
    expect([first.rows.length, second.rows.map(({ number }) => number), second.broken]).to.deep.equal([
      2,
      [3],
      '',
    ]);
  });

  it('notices what was changed, taken out or put in afterwards', async () => {
    const spoiled = async (sql: string, back: string): Promise<string> => {
      await change(house.pool, sql);
      const { broken } = await readAudit(house.pool, 1, 0, 100);
      await change(house.pool, back);
      expect((await readAudit(house.pool, 1, 0, 100)).broken).to.equal('');
      return broken;
    };
    expect(
      await spoiled(
        "UPDATE changes SET done_by = 'Cy' WHERE seal_number = 2",
        "UPDATE changes SET done_by = 'Bo' WHERE seal_number = 2",
      ),
    ).to.include('seal 2 is not as it was sealed');
    expect(
      await spoiled(
        `UPDATE change_items SET before_change = '{}' WHERE item = 'a.txt'`,
        `UPDATE change_items SET before_change = NULL WHERE item = 'a.txt'`,
      ),
    ).to.include('seal 1 is not as it was sealed');
    expect(
      await spoiled(
        'UPDATE changes SET seal_number = 99 WHERE seal_number = 2',
        'UPDATE changes SET seal_number = 2 WHERE seal_number = 99',
      ),
    ).to.include('seal 2 is gone');
  });

  it('seals what several write at once, each once', async () => {
    await Promise.all(
      Array.from({ length: 8 }, (_, at) =>
        Promise.all([addDeed(house.pool, 1, `p${at}`, `did ${at}`), readAudit(house.pool, 1, 0, 100)]),
      ),
    );
    const { rows, broken } = await readAudit(house.pool, 1, 0, 100);
    expect(broken).to.equal('');
    expect(rows.map(({ number }) => number)).to.deep.equal(Array.from({ length: 11 }, (_, at) => at + 1));
  });

  it('holds what is done by requests, and where it came from; a key’s value is in none of it', async () => {
    const application = await house.connection();
    const key = 'never-to-be-seen-anywhere';
    await getJson(application, 'keyring', {
      body: { title: 'Audited', key, builds: ['1'], remark: 'Winter archive', keep: true },
    });
    await getJson(application, 'titles/1/rights', { method: 'PUT', body: { rights: 'Ours.' } });
    const { rows, broken } = await readAudit(house.pool, 1, 11, 100);
    expect(broken).to.equal('');
    expect(rows.map(({ what }) => what)).to.deep.equal([
      'kept key 1, “Winter archive”, of 1',
      'changed the statement on rights',
    ]);
    expect(rows[1]?.items).to.deep.equal([{ item: 'rights', before: '""', after: '"Ours."' }]);
    expect(rows.every(({ from }) => from === 'this machine')).to.equal(true);
    expect(JSON.stringify(rows)).not.to.include(key);
  });

  it('is printed by the command line, which ends with 1 where a seal is broken', async () => {
    const good = await house.run('audit', '--title', 'Audited');
    expect(good.code, good.errors).to.equal(0);
    expect(good.output).to.match(/^1 {2}\d{4}-.*Ada.*: a\.txt belongs with b\.txt\n/);
    expect(good.output).to.match(/All 13 are as they were sealed; the last seal is [0-9a-f]{64}\./);
    await change(house.pool, "UPDATE changes SET what = 'nothing' WHERE seal_number = 3");
    const bad = await house.run('audit', '--title', 'Audited', '--json');
    expect(bad.code).to.equal(1);
    expect(bad.errors).to.include('seal 3 is not as it was sealed');
    expect(bad.output.trim().split('\n')).to.have.length(13);
  });
});
