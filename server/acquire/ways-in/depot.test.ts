import { expect } from 'chai';
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { failureOf } from '../../../tests/support/failure.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { migrate } from '../../platform/database/migrate.ts';
import { PlainError } from '../../platform/plain-error.ts';
import { openStore, type ContentStore } from '../../store/content-store.ts';
import { hashOf } from '../../store/hash.ts';
import { fetchDepotBuild, listDepot, pruneWorkingCopies, type DepotBuild, type Fetched } from './depot.ts';

const blake3 = (words: string): string => hashOf(Buffer.from(words)).toString('hex');
const file = (path: string, words: string) => ({ path, size: words.length, blake3: blake3(words) });

/** A depot as a team meets it: it goes away, lies, and sends the same contents for many builds. */
describe('A depot’s builds', () => {
  const house = new TestHouse();
  let store: ContentStore;
  let server: Server;
  let url = '';
  /** What lies at which address: words, or a status. */
  const answers = new Map<string, string | number>();
  const asked: string[] = [];
  before(async () => {
    await house.open();
    await migrate(house.pool);
    store = openStore(house.pool, house.folder.store);
    server = createServer((incoming, outgoing) => {
      const path = incoming.url ?? '';
      asked.push(path);
      const answer = answers.get(path) ?? 404;
      outgoing.writeHead(typeof answer === 'number' ? answer : 200);
      outgoing.end(typeof answer === 'number' ? '' : answer);
    }).listen(0, '127.0.0.1');
    await new Promise((resolve) => server.once('listening', resolve));
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/depot`;
  });
  after(async () => {
    server.close();
    server.closeAllConnections();
    await store.close();
    await house.close();
  });
  beforeEach(() => {
    answers.clear();
    asked.length = 0;
  });

  const signal = new AbortController().signal;
  const build = (label: string): DepotBuild => ({
    label,
    releasedAt: '2031-04-01T00:00:00Z',
    platform: '',
    manifest: `manifests/${label}.json`,
  });
  const publish = (label: string, files: Record<string, string>): DepotBuild => {
    for (const words of Object.values(files)) answers.set(`/depot/contents/${blake3(words)}`, words);
    answers.set(
      `/depot/manifests/${label}.json`,
      JSON.stringify({ files: Object.entries(files).map(([path, words]) => file(path, words)) }),
    );
    return build(label);
  };
  const place = (): string => house.path('copies');
  const fetchBuild = (wanted: DepotBuild, stop = signal): Promise<Fetched> =>
    fetchDepotBuild({ store, place: place() }, url, wanted, stop, () => undefined);
  const read = (folder: string, path: string): string => readFileSync(join(folder, path), 'utf8');

  it('are listed as it says, and not where what it says does not fit', async () => {
    answers.set('/depot/builds.json', JSON.stringify({ title: 'Ferry', builds: [build('1'), build('2')] }));
    expect((await listDepot(url, signal)).map(({ label }) => label)).to.deep.equal(['1', '2']);
    answers.set(
      '/depot/builds.json',
      JSON.stringify({ title: 'Ferry', builds: [{ ...build('1'), label: 7 }] }),
    );
    // It is asked again for a while: it may have been publishing at that moment.
    expect((await failureOf(listDepot(url, AbortSignal.timeout(700)))).name).to.equal('AbortError');
    expect(asked.length).to.be.above(1);
  });

  it('become folders; contents that lie there already are not fetched again', async () => {
    const first = await fetchBuild(publish('1', { 'a.txt': 'alder', 'deep/b.txt': 'bell' }));
    expect([read(first.folder, 'a.txt'), read(first.folder, 'deep/b.txt')]).to.deep.equal(['alder', 'bell']);
    expect([first.fetched, first.kept]).to.deep.equal([
      { files: 2, bytes: 9 },
      { files: 0, bytes: 0 },
    ]);
    asked.length = 0;
    const second = await fetchBuild(publish('2', { 'a.txt': 'alder', 'c.txt': 'crane', 'd.txt': 'alder' }));
    expect([second.fetched.files, second.kept.files]).to.deep.equal([1, 2]);
    expect(asked).to.deep.equal(['/depot/manifests/2.json', `/depot/contents/${blake3('crane')}`]);
    // One content on the disk, whatever builds have it.
    expect(statSync(join(first.folder, 'a.txt')).ino).to.equal(statSync(join(second.folder, 'd.txt')).ino);
  });

  it('take from the store what an earlier build brought there', async () => {
    const words = 'kept in the store since the build before';
    await store.putMany([{ hash: hashOf(Buffer.from(words)), bytes: Buffer.from(words) }]);
    answers.set('/depot/manifests/s.json', JSON.stringify({ files: [file('s.txt', words)] }));
    const { folder, kept } = await fetchBuild(build('s'));
    expect(read(folder, 's.txt')).to.equal(words);
    expect(kept).to.deep.equal({ files: 1, bytes: words.length });
    expect(asked).to.deep.equal(['/depot/manifests/s.json']);
  });

  it('hold exactly what the manifest names, also where an earlier attempt left more', async () => {
    const { folder } = await fetchBuild(publish('3', { 'a.txt': 'alder' }));
    writeFileSync(join(folder, 'left-over.txt'), 'x');
    mkdirSync(join(folder, 'old'), { recursive: true });
    writeFileSync(join(folder, 'old', 'b.txt'), 'x');
    await fetchBuild(publish('3', { 'a.txt': 'alder', 'e.txt': 'eel' }));
    expect([
      existsSync(join(folder, 'left-over.txt')),
      existsSync(join(folder, 'old', 'b.txt')),
    ]).to.deep.equal([false, false]);
    expect(read(folder, 'e.txt')).to.equal('eel');
  });

  it('are refused where other bytes come than their manifest says, and leave no trace', async () => {
    const wanted = publish('4', { 'f.txt': 'fern' });
    for (const other of ['ferm', 'fern and more', 'fer']) {
      answers.set(`/depot/contents/${blake3('fern')}`, other);
      // It tries again until it is stopped: while it waits, or while it asks.
      const { name } = await failureOf(fetchBuild(wanted, AbortSignal.timeout(300)));
      expect(name).to.be.oneOf(['AbortError', 'TimeoutError']);
      expect(existsSync(join(place(), 'contents', blake3('fern')))).to.equal(false);
    }
  });

  it('are refused where a manifest is empty, collides, or names what leads out', async () => {
    const manifest = (...paths: string[]): DepotBuild => {
      answers.set('/depot/manifests/5.json', JSON.stringify({ files: paths.map((path) => file(path, 'x')) }));
      return build('5');
    };
    for (const [paths, message] of [
      [[], /names no files/],
      [['../../x'], /a file that is refused: \.\.\/\.\.\/x/],
      [['/etc/x'], /refused/],
      [['a', 'a/b'], /cannot be a folder/],
    ] as const) {
      const error = await failureOf(fetchBuild(manifest(...paths)));
      expect(error).to.be.instanceOf(PlainError);
      expect(error.message).to.match(message);
    }
    const elsewhere = { ...build('5'), manifest: 'http://127.0.0.1:1/x.json' };
    expect((await failureOf(fetchBuild(elsewhere))).message).to.include('not one beside its own');
  });

  it('come all the same when it fails now and then', async () => {
    const wanted = publish('6', { 'g.txt': 'gull' });
    answers.set(`/depot/contents/${blake3('gull')}`, 503);
    setTimeout(() => answers.set(`/depot/contents/${blake3('gull')}`, 'gull'), 300);
    const { folder } = await fetchBuild(wanted);
    expect(read(folder, 'g.txt')).to.equal('gull');
    answers.set('/depot/manifests/6.json', 404);
    expect((await failureOf(fetchBuild(wanted))).message).to.include('answered with 404');
  });

  it('go on where they were stopped', async () => {
    const wanted = publish('7', { 'h.txt': 'heron', 'i.txt': 'iris', 'j.txt': 'jay' });
    const stop = new AbortController();
    const stopped = fetchDepotBuild({ store, place: place() }, url, wanted, stop.signal, ({ files }) => {
      if (files === 1) stop.abort();
    });
    expect((await failureOf(stopped)).name).to.equal('AbortError');
    asked.length = 0;
    const { folder } = await fetchBuild(wanted);
    expect(read(folder, 'j.txt')).to.equal('jay');
    expect(asked).not.to.include(`/depot/contents/${blake3('heron')}`);
  });

  it('go away when nobody needs them, with the contents that no other has', async () => {
    const old = await fetchBuild(publish('8', { 'a.txt': 'alder', 'k.txt': 'kelp' }));
    const kept = await fetchBuild(publish('9', { 'a.txt': 'alder' }));
    pruneWorkingCopies(place(), new Set(['9']));
    expect([existsSync(old.folder), existsSync(kept.folder)]).to.deep.equal([false, true]);
    expect(existsSync(join(place(), 'contents', blake3('kelp')))).to.equal(false);
    expect(existsSync(join(place(), 'contents', blake3('alder')))).to.equal(true);
  });
});
