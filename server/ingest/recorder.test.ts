import { expect } from 'chai';
import { TestHouse } from '../../tests/support/worvel.ts';
import { role } from '../acquire/builds/spans.ts';
import { migrate } from '../platform/database/migrate.ts';
import type { Connection } from '../platform/database/pool.ts';
import { change, select } from '../platform/database/rows.ts';
import { openStore, type ContentStore } from '../store/content-store.ts';
import { hashOf, pathDigest } from '../store/hash.ts';
import { KnownBuild } from './known-build.ts';
import { Recorder, type FoundAsset } from './recorder.ts';

/** What a worker found, on its way into the database. */
describe('Recorder', () => {
  const house = new TestHouse();
  let store: ContentStore;
  let connection: Connection;
  let jobId = 0;
  let recorder: Recorder;
  before(async () => {
    await house.open();
    await migrate(house.pool);
    store = openStore(house.pool, house.folder.store);
  });
  after(async () => {
    await store.close();
    await house.close();
  });
  beforeEach(async () => {
    connection = await house.pool.getConnection();
    jobId++;
    recorder = new Recorder(connection, store.openWriter(), jobId, await nothingKnown());
  });
  afterEach(() => (connection as unknown as { release(): void }).release());

  const nothingKnown = (): Promise<KnownBuild> =>
    KnownBuild.load(house.pool, {
      channelId: 1,
      base: null,
      isBase: false,
      isSameSource: false,
      isSameChoice: false,
    });
  const asset = (path: string, size: number | null): FoundAsset => ({
    path,
    unit: path,
    role: role.file,
    format: 'binary',
    byExtension: false,
    size,
  });
  const add = (path: string, words: string): Promise<void> =>
    recorder.addSmall(asset(path, Buffer.byteLength(words)), Buffer.from(words), () => ({
      format: 'text',
      byExtension: true,
    }));
  interface Row {
    path: string;
    role: number;
    format: string;
    hash: Buffer | null;
    size: number | null;
  }
  const rows = (): Promise<Row[]> =>
    select<Row>(
      house.pool,
      `SELECT p.path, i.role, i.format, i.hash, i.size FROM intake_assets i JOIN paths p ON p.digest = i.path_digest
        WHERE i.job_id = ? ORDER BY p.path`,
      [jobId],
    );
  const problems = (): Promise<{ path: string; reason: string; locked: number }[]> =>
    select(
      house.pool,
      `SELECT p.path, i.reason, i.locked FROM intake_problems i JOIN paths p ON p.digest = i.path_digest
        WHERE i.job_id = ? ORDER BY p.path`,
      [jobId],
    );

  it('writes nothing before it is asked to, and everything then', async () => {
    await add('a.txt', 'reed');
    expect(await rows()).to.deep.equal([]);
    await recorder.flush();
    expect((await rows()).map(({ path, format, size }) => [path, format, size])).to.deep.equal([
      ['a.txt', 'text', 4],
    ]);
    expect((await store.read(hashOf(Buffer.from('reed')).toString('hex'))).toString()).to.equal('reed');
    await recorder.flush();
    expect(await rows()).to.have.length(1);
  });

  it('stores a content once, however often and by however many it is met', async () => {
    const other = new Recorder(
      await house.pool.getConnection(),
      store.openWriter(),
      jobId,
      await nothingKnown(),
    );
    await add('b/1.txt', 'the same water');
    await add('b/2.txt', 'the same water');
    await other.addSmall(asset('b/3.txt', 14), Buffer.from('the same water'), () => ({
      format: 'text',
      byExtension: true,
    }));
    await recorder.flush();
    await other.flush();
    expect((await rows()).map(({ path }) => path)).to.deep.equal(['b/1.txt', 'b/2.txt', 'b/3.txt']);
    const kept = await select(house.pool, 'SELECT pack_id FROM contents WHERE hash = ?', [
      hashOf(Buffer.from('the same water')),
    ]);
    expect(kept).to.have.length(1);
  });

  it('writes by itself when much has come together', async () => {
    for (let at = 0; at < 4000; at++) await recorder.addLink(`links/${at}`, 'links', 'target');
    expect(await rows()).to.have.length(4000);
    // 8 MiB of contents that are new.
    for (let at = 0; at < 8; at++) await add(`some/${at}`, `${at}`.repeat(1024 ** 2));
    expect((await rows()).filter(({ path }) => path.startsWith('some'))).to.have.length(8);
  });

  it('gives a hard link the content of what it is a link to, and lists one that leads to nothing', async () => {
    await add('c/real.txt', 'heron');
    await recorder.addCopy(asset('c/link.txt', null), 'c/real.txt');
    await recorder.addCopy(asset('c/lost.txt', null), 'c/nothing.txt');
    await recorder.flush();
    const [link, lost, real] = await rows();
    expect([link?.hash, link?.size, link?.format]).to.deep.equal([real?.hash, 5, 'text']);
    expect([lost?.path, lost?.hash]).to.deep.equal(['c/lost.txt', null]);
    expect(await problems()).to.deep.equal([
      {
        path: 'c/lost.txt',
        reason: 'it is a hard link to c/nothing.txt, which could not be read',
        locked: 0,
      },
    ]);
  });

  it('lists what could not be read, and what is locked, with its reason', async () => {
    await recorder.addUnreadable(asset('d/cut.zip', 100), 'it ends early');
    await recorder.addUnreadable(asset('d/shut.zip', 100), 'it is locked', true);
    recorder.addProblem({ path: 'd/odd', unit: 'd/odd', reason: 'its name is no UTF-8', locked: false });
    await recorder.addLink('d/way', 'd/way', 'd/cut.zip');
    await recorder.flush();
    expect((await rows()).map(({ path, role: what, hash }) => [path, what, hash])).to.deep.equal([
      ['d/cut.zip', role.file, null],
      ['d/shut.zip', role.file, null],
      ['d/way', role.link, null],
    ]);
    expect((await problems()).map(({ path, locked }) => [path, locked])).to.deep.equal([
      ['d/cut.zip', 0],
      ['d/odd', 0],
      ['d/shut.zip', 1],
    ]);
  });

  it('writes all of a batch or nothing of it', async () => {
    await add('e/1.txt', 'one');
    await recorder.flush();
    // What cannot be written: a reason that is longer than its column.
    recorder.addProblem({ path: 'e/2.txt', unit: 'e/2.txt', reason: 'x'.repeat(70_000), locked: false });
    await add('e/2.txt', 'two');
    let refused = '';
    await recorder.flush().catch((error: unknown) => (refused = String(error)));
    expect(refused).not.to.equal('');
    expect((await rows()).map(({ path }) => path)).to.deep.equal(['e/1.txt']);
    expect(
      await select(house.pool, 'SELECT 1 FROM paths WHERE digest = ?', [pathDigest('e/2.txt')]),
    ).to.deep.equal([]);
  });

  it('tells files of the source that are done, and only whole ones by their state', async () => {
    const state = '0123456789abcdef0123456789abcdef';
    const source = (path: string, isSettled: boolean) => ({ path, size: 1, signature: state, isSettled });
    recorder.addSource(source('f/whole', true), true);
    recorder.addSource(source('f/changing', false), true);
    recorder.addSource(source('f/cut', true), false);
    await add('f/whole', 'w');
    await add('f/changing', 'c');
    await add('f/cut', 't');
    await recorder.flush();
    const kept = await select<{ path: string; signature: Buffer }>(
      house.pool,
      'SELECT p.path, s.signature FROM intake_sources s JOIN paths p ON p.digest = s.path_digest WHERE s.job_id = ? ORDER BY p.path',
      [jobId],
    );
    expect(kept.map(({ path, signature }) => [path, signature.toString('hex') === state])).to.deep.equal([
      ['f/changing', false],
      ['f/cut', false],
      ['f/whole', true],
    ]);
  });

  it('refuses a large content where a small one was meant', async () => {
    let refused: unknown;
    await recorder
      .addSmall(asset('g', null), { length: 2 ** 31 } as Uint8Array, () => ({
        format: 'binary',
        byExtension: false,
      }))
      .catch((error: unknown) => (refused = error));
    expect(refused).to.be.instanceOf(RangeError);
    expect(
      (await change(house.pool, 'DELETE FROM intake_assets WHERE job_id = ?', [jobId])).changed,
    ).to.equal(0);
  });
});
