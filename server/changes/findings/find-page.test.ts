import { expect } from 'chai';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { findingsQuerySchema, type FindingsPage } from '../../../contract/findings.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { findBuild, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { changeStates } from '../pass/change-states.ts';
import { addRemark } from '../pass/remarks.ts';
import { findPage, type PageSource } from './find-page.ts';
import { RecentSpans } from './recent-spans.ts';

/** A page of what differs, as somebody asks for it. */
describe('findPage', () => {
  const house = new TestHouse();
  let source: PageSource;
  let span: [PlacedBuild, PlacedBuild];
  const put = (path: string, words: string): void => {
    mkdirSync(dirname(house.path('game', path)), { recursive: true });
    writeFileSync(house.path('game', path), words);
  };
  before(async () => {
    await house.open();
    put('texts/en/a.txt', 'alder and reed');
    put('texts/en/b.txt', 'bell');
    put('texts/old.txt', 'gone soon');
    put('data/same.json', '{"same": true}');
    await house.index(house.path('game'), 'Paged', '1');
    put('texts/en/a.txt', 'alder, reed and water');
    put('texts/en/new.txt', 'a lantern that is new, and the longest of all of these');
    put('data/doors.json', '{"doors": 3}');
    put('sounds/ring.txt', 'bell');
    rmSync(house.path('game', 'texts/old.txt'));
    await house.index(house.path('game'), 'Paged', '2');
    const builds = await Promise.all(['1', '2'].map((label) => findBuild(house.pool, 1, label)));
    span = builds as [PlacedBuild, PlacedBuild];
    source = {
      pool: house.pool,
      spans: new RecentSpans(house.pool),
      ranks: () => Promise.resolve(new Map([['data/doors.json', 9]])),
      pathsWithNotes: () => Promise.resolve(new Set(['texts/en/new.txt'])),
    };
  });
  after(() => house.close());

  const page = (query: Record<string, string | number>): Promise<FindingsPage> =>
    findPage(
      source,
      ...span,
      findingsQuerySchema.parse({ channel: 1, from: '1', to: '2', noise: 'all', ...query }),
    );
  const pathsOf = async (query: Record<string, string | number>): Promise<string[]> =>
    (await page(query)).findings.map(({ path }) => path);

  it('has all of them with their counts, by path', async () => {
    const all = await page({});
    expect(all.findings.map(({ status, path }) => `${status} ${path}`)).to.deep.equal([
      'added data/doors.json',
      'copied sounds/ring.txt',
      'changed texts/en/a.txt',
      'added texts/en/new.txt',
      'removed texts/old.txt',
    ]);
    expect(all.summary).to.include({ added: 2, removed: 1, changed: 1, copied: 1, unchanged: 2 });
    expect([all.total, all.kinds.text, all.marks.open, all.carried]).to.deep.equal([5, 5, 5, 0]);
    expect(all.findings.map(({ hasNote }) => hasNote)).to.deep.equal([false, false, false, true, false]);
  });

  it('is cut where it is asked to be, and beyond the end it is empty', async () => {
    const cut = await page({ offset: 1, limit: 2 });
    expect([cut.total, cut.offset]).to.deep.equal([5, 1]);
    expect(cut.findings.map(({ path }) => path)).to.deep.equal(['sounds/ring.txt', 'texts/en/a.txt']);
    expect((await page({ offset: 50 })).findings).to.deep.equal([]);
  });

  it('keeps to statuses, to a folder and to words of either path, whatever their case', async () => {
    expect(await pathsOf({ status: 'removed,changed' })).to.deep.equal(['texts/en/a.txt', 'texts/old.txt']);
    expect(await pathsOf({ folder: 'texts/en/' })).to.deep.equal(['texts/en/a.txt', 'texts/en/new.txt']);
    expect(await pathsOf({ folder: 'texts/e' })).to.deep.equal([]);
    expect(await pathsOf({ text: 'TXT New' })).to.deep.equal(['texts/en/new.txt']);
    // What it was copied from.
    expect(await pathsOf({ text: 'texts/en/b' })).to.deep.equal(['sounds/ring.txt']);
    expect(await pathsOf({ kind: 'picture' })).to.deep.equal([]);
  });

  it('stands in the order that is asked for', async () => {
    expect((await pathsOf({ sort: 'size' }))[0]).to.equal('texts/en/new.txt');
    expect((await pathsOf({ sort: 'news' }))[0]).to.equal('data/doors.json');
    const byStatus = (await page({ sort: 'status' })).findings.map(({ status }) => status);
    expect(byStatus).to.deep.equal([...byStatus].sort());
    expect(await pathsOf({})).to.have.length(5);
  });

  it('knows who has what, and what was remarked; another list follows when that changes', async () => {
    expect(await pathsOf({ mark: 'kept' })).to.deep.equal([]);
    const change = { mark: 'kept', assignee: 'Bo', addLabels: ['isles'] } as const;
    await changeStates(house.pool, ...span, ['texts/en/a.txt'], {
      by: 'Ada',
      seen: 0,
      change: { ...change, addLabels: [...change.addLabels] },
    });
    await addRemark(house.pool, ...span, 'texts/en/a.txt', { body: 'Since spring?', by: 'Ada' });
    const kept = await page({ mark: 'kept' });
    expect(kept.findings.map(({ path, remarks }) => [path, remarks])).to.deep.equal([['texts/en/a.txt', 1]]);
    expect(kept.findings[0]?.pass).to.include({ mark: 'kept', assignee: 'Bo', changedBy: 'Ada' });
    expect([kept.people, kept.labels]).to.deep.equal([['Ada', 'Bo'], ['isles']]);
    expect(kept.marks).to.deep.equal({ open: 4, kept: 1, aside: 0, done: 0 });
    expect(kept.revision).to.be.above(0);
    expect(await pathsOf({ assignee: 'Bo' })).to.deep.equal(['texts/en/a.txt']);
    expect(await pathsOf({ assignee: 'Ada' })).to.deep.equal([]);
    expect(await pathsOf({ label: 'isles', mark: 'open' })).to.deep.equal([]);
    expect(await pathsOf({ mark: 'open' })).to.have.length(4);
  });

  it('reads backwards what it reads forwards', async () => {
    const [from, to] = span;
    const query = findingsQuerySchema.parse({ channel: 1, from: '2', to: '1', noise: 'all' });
    const back = await findPage(source, to, from, query);
    expect(back.findings.map(({ status, path }) => `${status} ${path}`)).to.include.members([
      'removed data/doors.json',
      'added texts/old.txt',
      'changed texts/en/a.txt',
    ]);
    expect(back.carried).to.equal(0);
  });
});
