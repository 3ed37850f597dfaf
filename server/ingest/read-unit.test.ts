import { expect } from 'chai';
import { zipSync } from 'fflate';
import { execFileSync } from 'node:child_process';
import { chmodSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { Choice } from '../../core/containers/choice.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { migrate } from '../platform/database/migrate.ts';
import type { Connection } from '../platform/database/pool.ts';
import { select } from '../platform/database/rows.ts';
import { openStore, type ContentStore } from '../store/content-store.ts';
import { hashOf } from '../store/hash.ts';
import { largeContentBytes } from '../store/large-content.ts';
import { KnownBuild } from './known-build.ts';
import { noCounts } from './messages.ts';
import { readUnit } from './read-unit.ts';
import { Recorder } from './recorder.ts';
import { LockedPaths, type UnitContext } from './unit-context.ts';
import { lookAt } from './walk.ts';

const text = (words: string): Uint8Array => new TextEncoder().encode(words);

/** One file of a source, on its way into a build. */
describe('readUnit', () => {
  const house = new TestHouse();
  let store: ContentStore;
  let connection: Connection;
  let jobId = 0;
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
    mkdirSync(house.path('source'), { recursive: true });
  });
  afterEach(() => {
    (connection as unknown as { release(): void }).release();
    rmSync(house.path('source'), { recursive: true });
  });

  const put = (path: string, bytes: Uint8Array): void => {
    mkdirSync(dirname(house.path('source', path)), { recursive: true });
    writeFileSync(house.path('source', path), bytes);
  };
  const contextOf = async (more: Partial<UnitContext> = {}): Promise<UnitContext> => ({
    recorder: new Recorder(
      connection,
      store.openWriter(),
      jobId,
      await KnownBuild.load(house.pool, {
        channelId: 1,
        base: null,
        isBase: false,
        isSameSource: false,
        isSameChoice: false,
      }),
    ),
    source: house.path('source'),
    temporary: house.root,
    counts: { ...noCounts },
    choice: new Choice({ only: [], without: [] }),
    keys: [],
    containerSheets: [],
    formatVersions: {},
    sister: () => Promise.resolve(null),
    contentRoot: '',
    holeMark: null,
    unlocking: null,
    checkpoint: () => Promise.resolve(),
    ...more,
  });
  /** @returns what was recorded of one file: paths with their formats, and what went wrong */
  const read = async (
    path: string,
    more: Partial<UnitContext> = {},
  ): Promise<{ rows: string[]; problems: string[]; isWhole: boolean; counts: UnitContext['counts'] }> => {
    const context = await contextOf(more);
    const isWhole = await readUnit(context, lookAt(house.path('source'), path));
    await context.recorder.flush();
    const rows = await select<{ path: string; format: string; hash: Buffer | null }>(
      house.pool,
      `SELECT p.path, i.format, i.hash FROM intake_assets i JOIN paths p ON p.digest = i.path_digest
        WHERE i.job_id = ? ORDER BY p.path`,
      [jobId],
    );
    const problems = await select<{ path: string; reason: string }>(
      house.pool,
      `SELECT p.path, i.reason FROM intake_problems i JOIN paths p ON p.digest = i.path_digest
        WHERE i.job_id = ? ORDER BY p.path`,
      [jobId],
    );
    return {
      rows: rows.map((row) => `${row.path} ${row.format}${row.hash ? '' : ' unread'}`),
      problems: problems.map((problem) => `${problem.path}: ${problem.reason}`),
      isWhole,
      counts: context.counts,
    };
  };
  const stored = async (bytes: Uint8Array): Promise<Buffer> => store.read(hashOf(bytes).toString('hex'));

  it('keeps a leaf with its format, and its bytes in the store', async () => {
    put('texts/a.json', text('{"reed": 1}'));
    const { rows, problems, isWhole, counts } = await read('texts/a.json');
    expect(rows).to.deep.equal(['texts/a.json json']);
    expect([problems, isWhole]).to.deep.equal([[], true]);
    expect(counts).to.deep.include({ files: 1, bytes: 11, readBytes: 11 });
    expect((await stored(text('{"reed": 1}'))).toString()).to.equal('{"reed": 1}');
  });

  it('opens an archive, and the archives in it, each entry by its path through all of them', async () => {
    const inner = zipSync({ 'b.txt': text('bell'), 'deep/c.txt': text('crane') });
    put('data.zip', zipSync({ 'a.txt': text('alder'), 'inner.zip': inner }));
    const { rows, problems, counts } = await read('data.zip');
    expect(rows).to.deep.equal([
      'data.zip zip',
      'data.zip!/a.txt plain',
      'data.zip!/inner.zip zip',
      'data.zip!/inner.zip!/b.txt plain',
      'data.zip!/inner.zip!/deep/c.txt plain',
    ]);
    expect([problems, counts.files]).to.deep.equal([[], 3]);
    expect((await stored(text('crane'))).toString()).to.equal('crane');
  });

  it('reads what is compressed from beginning to end the same way', async () => {
    put('in/a.txt', text('alder'));
    execFileSync('tar', ['-czf', house.path('source', 'all.tar.gz'), '-C', house.path('source'), 'in']);
    const { rows } = await read('all.tar.gz');
    expect(rows).to.include('all.tar.gz!/in/a.txt plain');
  });

  it('keeps as it is what looks like an archive and cannot be opened, and says why', async () => {
    const whole = zipSync({ 'a.txt': text('alder '.repeat(500)) });
    put('cut.zip', whole.subarray(0, whole.length - 30));
    const { rows, problems, isWhole } = await read('cut.zip');
    expect(rows).to.have.length(1);
    expect(rows[0]).to.match(/^cut\.zip \w+$/);
    expect(problems.join()).to.match(/^cut\.zip: the archive was not opened: /);
    expect(isWhole).to.equal(true);
  });

  it('goes 16 deep at the most, and keeps what lies deeper as a file', async () => {
    let bytes = zipSync({ 'end.txt': text('here') });
    for (let depth = 0; depth < 40; depth++) bytes = zipSync({ 'x.zip': bytes });
    put('deep.zip', bytes);
    const { rows, problems } = await read('deep.zip');
    expect(problems).to.have.length(1);
    expect(problems[0]).to.match(/it lies more than \d+ archives deep$/);
    expect(rows.length).to.be.within(3, 41);
    expect(rows.join()).not.to.include('end.txt');
  });

  it('leaves out what is not wanted, within archives too, and counts it', async () => {
    put('data.zip', zipSync({ 'a.txt': text('alder'), 'b.tmp': text('bell') }));
    put('c.tmp', text('crane'));
    const choice = new Choice({ only: [], without: ['*.tmp'] });
    const archive = await read('data.zip', { choice });
    expect(archive.rows).to.deep.equal(['data.zip zip', 'data.zip!/a.txt plain']);
    expect(archive.counts).to.include({ files: 1, leftOutFiles: 1, leftOutBytes: 4 });
    const file = await read('c.tmp', { choice });
    expect(file.counts).to.include({ files: 0, leftOutFiles: 1, leftOutBytes: 5 });
  });

  it('says of a file that vanished or may not be read that it is so, and goes on', async () => {
    put('gone.txt', text('gone'));
    const unit = lookAt(house.path('source'), 'gone.txt');
    rmSync(house.path('source', 'gone.txt'));
    const context = await contextOf();
    expect(await readUnit(context, unit)).to.equal(false);
    await context.recorder.flush();
    const problems = await select<{ reason: string }>(
      house.pool,
      'SELECT reason FROM intake_problems WHERE job_id = ?',
      [jobId],
    );
    expect(problems).to.deep.equal([{ reason: 'it vanished while the source was read' }]);
    expect(context.counts.files).to.equal(1);
    if (process.getuid?.() === 0) return; // Root may read everything.
    put('closed.txt', text('closed'));
    chmodSync(house.path('source', 'closed.txt'), 0);
    expect((await read('closed.txt')).problems.join()).to.include('it cannot be read');
  });

  it('says of a file that was written to meanwhile that it changed', async () => {
    put('a.txt', text('alder'));
    const unit = lookAt(house.path('source'), 'a.txt');
    put('a.txt', text('alder and reed'));
    const context = await contextOf();
    expect(await readUnit(context, unit)).to.equal(false);
    await context.recorder.flush();
    const [problem] = await select<{ reason: string }>(
      house.pool,
      'SELECT reason FROM intake_problems WHERE job_id = ?',
      [jobId],
    );
    expect(problem?.reason).to.equal('it changed while the source was read');
  });

  it('keeps a large content by streaming, once, with the bytes that it had', async () => {
    const bytes = Buffer.alloc(largeContentBytes + 5, 'lantern ');
    put('large.bin', bytes);
    put('again.bin', bytes);
    expect((await read('large.bin')).rows).to.deep.equal(['large.bin plain']);
    expect((await stored(bytes)).equals(bytes)).to.equal(true);
    await read('again.bin');
    const contents = await select<{ count: number }>(
      house.pool,
      'SELECT COUNT(*) AS count FROM contents WHERE hash = ?',
      [hashOf(bytes)],
    );
    expect(contents).to.deep.equal([{ count: 1 }]);
  });

  it('does not take for a file what a device could not give, wherever the hole lies', async () => {
    const mark = Buffer.from('the device gave nothing here');
    const holeMark = mark;
    put('whole.bin', Buffer.alloc(3_000_000, 1));
    // Across the border of the pieces in which it is read.
    put('torn.bin', Buffer.concat([Buffer.alloc(1024 * 1024 - 10, 1), mark, Buffer.alloc(50, 2)]));
    expect((await read('whole.bin', { holeMark })).problems).to.deep.equal([]);
    const { rows, problems } = await read('torn.bin', { holeMark });
    expect(rows).to.include('torn.bin binary unread');
    expect(problems).to.deep.equal(['torn.bin: parts of it could not be read from the device']);
  });

  it('reads nothing but what leads to what was locked, when something is unlocked', async () => {
    put('data.zip', zipSync({ 'a.txt': text('alder'), 'b.txt': text('bell') }));
    const unlocking = new LockedPaths([{ path: 'data.zip!/b.txt', packedHash: null }]);
    const { rows, counts } = await read('data.zip', { unlocking });
    expect(rows).to.deep.equal(['data.zip zip', 'data.zip!/b.txt plain']);
    expect(counts.files).to.equal(1);
  });

  it('is stopped between two entries', async () => {
    put('data.zip', zipSync(Object.fromEntries(Array.from({ length: 50 }, (_, at) => [`${at}`, text('x')]))));
    let asked = 0;
    const checkpoint = (): Promise<void> =>
      ++asked > 5 ? Promise.reject(new Error('stopped')) : Promise.resolve();
    const error = await read('data.zip', { checkpoint }).catch((reason: unknown) => reason);
    expect(String(error)).to.include('stopped');
    expect(asked).to.equal(6);
  });
});
