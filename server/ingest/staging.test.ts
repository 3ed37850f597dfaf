import { expect } from 'chai';
import { TestHouse } from '../../tests/support/worvel.ts';
import { role } from '../acquire/builds/spans.ts';
import { bulkLoad } from '../platform/database/bulk-load.ts';
import { migrate } from '../platform/database/migrate.ts';
import { change, select } from '../platform/database/rows.ts';
import { openStore, type ContentStore } from '../store/content-store.ts';
import { hashOf, pathDigest } from '../store/hash.ts';
import { unsettled } from './containers/file-signature.ts';
import { assetsTable, pathsTable, problemsTable, sourcesTable } from './intake-tables.ts';
import { clearStaging, countStaged, prepareResume, settleBase } from './staging.ts';

const state = 'ab'.repeat(16);

/** What a job has gathered, when it is taken up again. */
describe('What a job has gathered', () => {
  const house = new TestHouse();
  let store: ContentStore;
  let job = 0;
  before(async () => {
    await house.open();
    await migrate(house.pool);
    store = openStore(house.pool, house.folder.store);
    await store.putMany([{ hash: hashOf(Buffer.from('kept')), bytes: Buffer.from('kept') }]);
    await change(house.pool, "INSERT INTO titles (name, rights) VALUES ('Staged', '')");
    await change(house.pool, "INSERT INTO channels (title_id, name) SELECT id, 'main' FROM titles");
    await change(
      house.pool,
      "INSERT INTO builds (channel_id, label, source, released_at) SELECT id, '1', '/x', NOW() FROM channels",
    );
  });
  after(async () => {
    await store.close();
    await house.close();
  });
  beforeEach(async () => {
    const { insertId } = await change(
      house.pool,
      "INSERT INTO jobs (state, kind, subject, params, build_id, replaces, source) SELECT 'running', 'index', '', 'null', id, 0, '/x' FROM builds",
    );
    job = insertId;
  });

  /** A file of the source with what came out of it: a path by itself is a plain file. */
  const gather = async (unit: string, signature: string | null, assets: Record<string, string | null>) => {
    const paths = [unit, ...Object.keys(assets)];
    await bulkLoad(
      house.pool,
      pathsTable,
      paths.map((path) => [pathDigest(path), path]),
    );
    await bulkLoad(
      house.pool,
      assetsTable,
      Object.entries(assets).map(([path, words]) => [
        job,
        pathDigest(path),
        pathDigest(unit),
        role.file,
        'plain',
        1,
        words?.length ?? null,
        words === null ? null : hashOf(Buffer.from(words)),
        null,
        null,
      ]),
    );
    if (signature !== null)
      await bulkLoad(house.pool, sourcesTable, [[job, pathDigest(unit), Buffer.from(signature, 'hex')]]);
  };
  const staged = async (): Promise<string[]> =>
    (
      await select<{ path: string }>(
        house.pool,
        'SELECT p.path FROM intake_assets i JOIN paths p ON p.digest = i.path_digest WHERE i.job_id = ? ORDER BY p.path',
        [job],
      )
    ).map(({ path }) => path);
  const resume = (isStill = true): Promise<Set<string>> => prepareResume(house.pool, job, () => isStill);

  it('is kept of files that were read to their end and are what they were', async () => {
    await gather('a.txt', state, { 'a.txt': 'kept' });
    await gather('b.zip', state, { 'b.zip!/one': 'kept', 'b.zip!/two': 'kept' });
    expect([...(await resume())].sort()).to.deep.equal(['a.txt', 'b.zip']);
    expect(await staged()).to.have.length(3);
  });

  it('is thrown away of a file that was not finished, with all that had come out of it', async () => {
    await gather('a.txt', state, { 'a.txt': 'kept' });
    await gather('cut.zip', null, { 'cut.zip!/one': 'kept' });
    await bulkLoad(house.pool, problemsTable, [
      [job, pathDigest('cut.zip!/two'), pathDigest('cut.zip'), 'it is damaged', 0],
    ]);
    expect([...(await resume())]).to.deep.equal(['a.txt']);
    expect(await staged()).to.deep.equal(['a.txt']);
    expect(await select(house.pool, 'SELECT 1 FROM intake_problems WHERE job_id = ?', [job])).to.deep.equal(
      [],
    );
  });

  it('is thrown away of a file that changed since, or was changing while it was read', async () => {
    await gather('a.txt', state, { 'a.txt': 'kept' });
    await gather('moving.txt', unsettled, { 'moving.txt': 'kept' });
    const asked: [string, string][] = [];
    const done = await prepareResume(house.pool, job, (path, signature) => {
      asked.push([path, signature]);
      return false;
    });
    expect([done.size, await staged()]).to.deep.equal([0, []]);
    expect(asked).to.deep.equal([['a.txt', state]]);
  });

  it('is thrown away where the store has lost a content of it, or it could not be read', async () => {
    await gather('a.txt', state, { 'a.txt': 'kept' });
    await gather('lost.zip', state, { 'lost.zip!/one': 'kept', 'lost.zip!/two': 'never stored' });
    await gather('shut.txt', state, { 'shut.txt': null });
    // What is unreadable inside of an archive stays so: the archive was read to its end.
    await gather('odd.zip', state, { 'odd.zip!/broken': null, 'odd.zip!/whole': 'kept' });
    expect([...(await resume())].sort()).to.deep.equal(['a.txt', 'odd.zip']);
    expect(await staged()).to.deep.equal(['a.txt', 'odd.zip!/broken', 'odd.zip!/whole']);
  });

  it('is forgotten when it was a difference to another build, and kept when to this one', async () => {
    await settleBase(house.pool, job, 'build 3');
    await gather('a.txt', state, { 'a.txt': 'kept' });
    await settleBase(house.pool, job, 'build 3');
    expect(await staged()).to.deep.equal(['a.txt']);
    await settleBase(house.pool, job, 'build 4');
    expect(await staged()).to.deep.equal([]);
  });

  it('adds up with what is as it was, each job its own', async () => {
    await gather('a.txt', state, { 'a.txt': 'kept' });
    await gather('b.zip', state, { 'b.zip!/one': 'kept', 'b.zip!/two': null });
    const reasons = ['it is locked', 'it is damaged'];
    await bulkLoad(
      house.pool,
      problemsTable,
      reasons.map((reason, at) => [
        job,
        pathDigest(`b.zip!/${at}`),
        pathDigest('b.zip'),
        reason,
        at === 0 ? 1 : 0,
      ]),
    );
    const counts = await countStaged(house.pool, job, { files: 10, containers: 2, bytes: 1000 });
    expect(counts).to.deep.equal({
      files: 13,
      containers: 2,
      bytes: 1008,
      newContents: 0,
      newBytes: 0,
      locked: 1,
      unreadable: 1,
    });
    const other = await countStaged(house.pool, job + 1000, { files: 0, containers: 0, bytes: 0 });
    expect(Object.values(other).every((count) => count === 0)).to.equal(true);
    await clearStaging(house.pool, job);
    expect(await staged()).to.deep.equal([]);
  });
});
