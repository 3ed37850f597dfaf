import { expect } from 'chai';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { readersVersion } from '../../../core/kinds/read.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { change } from '../../platform/database/rows.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { ChannelTables } from './channel-tables.ts';

/** What searches of a channel look at: made once for its builds as they are, and read from a file from then on. */
describe('ChannelTables', () => {
  const house = new TestHouse();
  const place = (): string => join(house.folder.root, 'search');
  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    for (const name of ['heron.txt', 'reed.txt']) writeFileSync(house.path('game', name), name);
    await house.index(house.path('game'), 'Searched', '1');
  });
  after(() => house.close());

  const open = (): ChannelTables => new ChannelTables(house.pool, house.databaseAddress, house.folder);
  const tablesFile = (): string => join(place(), 'channel-1.tables');

  it('knows the builds of a channel; another one has none', async () => {
    const tables = open();
    const builds = await tables.builds(1);
    expect([builds.newest, [...builds.sequences]]).to.deep.equal([1, [['1', 1]]]);
    const lost = await tables.builds(99).catch((error: unknown) => error);
    expect(lost).to.be.instanceOf(NotFoundError);
    // A failure is not kept: a channel that comes meanwhile is found.
    expect(await tables.builds(99).catch((error: unknown) => error)).not.to.equal(lost);
  });

  it('makes tables once, for however many ask at the same time', async () => {
    const tables = open();
    const builds = await tables.builds(1);
    const [first, second] = await Promise.all([tables.get(1, builds), tables.get(1, builds)]);
    expect(first.tables).to.equal(second.tables);
    expect([first.index.path(0), first.index.path(1)]).to.deep.equal(['heron.txt', 'reed.txt']);
    expect((await tables.get(1, builds)).key).to.equal(builds.key);
  });

  it('reads them from their file at the next start', async () => {
    const before = statSync(tablesFile()).mtimeMs;
    const tables = open();
    await tables.get(1, await tables.builds(1));
    expect(statSync(tablesFile()).mtimeMs).to.equal(before);
  });

  it('makes them again where the file was damaged', async () => {
    const bytes = readFileSync(tablesFile());
    writeFileSync(tablesFile(), bytes.subarray(0, bytes.length / 2));
    const tables = open();
    const { tables: made } = await tables.get(1, await tables.builds(1));
    expect(made.paths).not.to.equal(undefined);
    expect(readFileSync(tablesFile()).length).to.equal(bytes.length);
  });

  it('has another key when a build came in, as soon as it is told to look', async () => {
    const tables = open();
    const { key } = await tables.builds(1);
    writeFileSync(house.path('game', 'lantern.txt'), 'lantern');
    await house.index(house.path('game'), 'Searched', '2');
    tables.forget();
    const after = await tables.builds(1);
    expect(after.key).not.to.equal(key);
    expect(after.labels.get(2)).to.equal('2');
    const { index } = await tables.get(1, after);
    expect(index.path(1)).to.equal('lantern.txt');
  });

  it('keeps one file of texts, that of the builds as they are', async () => {
    const tables = open();
    const builds = await tables.builds(1);
    await tables.get(1, builds);
    writeFileSync(join(place(), 'channel-1-0000000000000000.texts'), 'of earlier builds');
    const [file, same] = await Promise.all([tables.textFile(1, builds), tables.textFile(1, builds)]);
    expect(same).to.equal(file);
    expect(readdirSync(place()).filter((name) => name.endsWith('.texts'))).to.have.length(1);
    expect(existsSync(file)).to.equal(true);
  });

  it('takes away what a crash left half written, and nothing that somebody may be writing', () => {
    const [old, fresh] = ['old.new', 'fresh.new'].map((name) => join(place(), name));
    for (const file of [old, fresh]) writeFileSync(file ?? '', 'half');
    utimesSync(old ?? '', new Date(), new Date(Date.now() - 2 * 3_600_000));
    open().clearUnfinished();
    expect([existsSync(old ?? ''), existsSync(fresh ?? '')]).to.deep.equal([false, true]);
  });

  it('makes those of every channel that has builds', async () => {
    expect(await open().warm()).to.deep.equal([1]);
  });

  it('makes those of texts when facts are read, not before; those of paths stay as they were', async () => {
    const texts = (): string[] => readdirSync(place()).filter((name) => name.endsWith('.texts'));
    for (const name of texts()) rmSync(join(place(), name));
    const builds = await open().builds(1);
    const { paths } = (await open().get(1, builds)).tables;
    await change(house.pool, 'UPDATE builds SET facts_version = NULL WHERE label = ?', ['2']);
    const unread = await open().builds(1);
    expect([unread.isRead, unread.key === builds.key, unread.textsKey === builds.textsKey]).to.deep.equal([
      false,
      false,
      true,
    ]);
    await open().warm();
    expect(texts()).to.deep.equal([]);
    expect((await open().get(1, unread)).tables.paths).to.deep.equal(paths);
    await change(house.pool, 'UPDATE builds SET facts_version = ? WHERE label = ?', [readersVersion, '2']);
    await open().warm();
    expect(texts()).to.have.length(1);
  });
});
