import { expect } from 'chai';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { entryQuerySchema, siteSettingsSchema, type EntryInput } from '../../../contract/catalogue.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { findBuild } from '../../acquire/builds/builds.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import { saveSite } from '../site-settings.ts';
import { createEntry, findEntries, removeEntry, saveEntry } from './entries.ts';
import { readInbox } from './inbox.ts';
import { addRemark, listRemarks, settleRemark } from './remarks.ts';
import { review } from './review.ts';

const failure = (promise: Promise<unknown>): Promise<unknown> =>
  promise.then(
    () => null,
    (error: unknown) => error,
  );

describe('Review of entries', () => {
  const house = new TestHouse();
  const channelId = 1;
  /** The smallest picture: GIF, one pixel. */
  const picture = (shade: number): Buffer =>
    Buffer.from(
      `474946383961010001008000 00${Buffer.from([shade, shade, shade, 0, 0, 0]).toString('hex')}2c000000000100010000020144003b`.replace(
        / /g,
        '',
      ),
      'hex',
    );
  before(async () => {
    await house.open();
    const game = house.path('game');
    mkdirSync(game);
    for (const [name, shade] of [
      ['heron.gif', 10],
      ['reed.gif', 20],
      ['bell.gif', 30],
    ] as const)
      writeFileSync(house.path('game', name), picture(shade));
    await house.index(game, 'Reviewed', '1');
    writeFileSync(house.path('game', 'heron.gif'), picture(11));
    rmSync(house.path('game', 'reed.gif'));
    mkdirSync(house.path('game', 'moved'));
    // The same content elsewhere is nothing new.
    writeFileSync(house.path('game', 'moved', 'bell.gif'), picture(30));
    writeFileSync(house.path('game', 'lantern.gif'), picture(40));
    writeFileSync(house.path('game', 'words.txt'), 'no picture');
    await house.index(game, 'Reviewed', '2');
  });
  after(() => house.close());

  const make = (more: Partial<EntryInput>, by: string) =>
    createEntry(house.pool, { channelId, name: 'Heron', paths: ['heron.gif'], ...more }, by);

  it('lets one person do all of it, unless the title asks for two', async () => {
    const entry = await make({ state: 'published' }, 'Ada');
    expect([entry.state, entry.writtenBy, entry.approvedBy]).to.deep.equal(['published', 'Ada', '']);
    await removeEntry(house.pool, entry.id, 'Ada');
  });

  it('needs another person to approve, and again after every change', async () => {
    await saveSite(house.pool, 1, siteSettingsSchema.parse({ twoPeople: true }));
    expect(await failure(make({ state: 'published' }, 'Ada'))).to.be.instanceOf(ConflictError);
    const entry = await make({ state: 'in review' }, 'Ada');
    const save = async (more: object, by: string) => {
      const [now] = (await findEntries(house.pool, entryQuerySchema.parse({ channel: channelId }))).entries;
      if (!now) throw new Error('no entry');
      return saveEntry(house.pool, entry.id, { ...now, ...more }, now.revision, by);
    };
    expect(String(await failure(save({ state: 'approved' }, 'Ada')))).to.include(
      'Whoever wrote an entry last',
    );
    expect(String(await failure(save({ state: 'approved' }, '')))).to.include('Whoever wrote an entry last');
    expect(String(await failure(save({ state: 'published' }, 'Bo')))).to.include('Nobody has approved');
    const approved = await save({ state: 'approved' }, 'Bo');
    expect([approved.writtenBy, approved.approvedBy]).to.deep.equal(['Ada', 'Bo']);
    const published = await save({ state: 'published' }, 'Ada');
    expect([published.state, published.approvedBy]).to.deep.equal(['published', 'Bo']);
    expect(String(await failure(save({ summary: 'Other words.' }, 'Ada')))).to.include(
      'was changed since it was approved',
    );
    const again = await save({ summary: 'Other words.', state: 'in review' }, 'Bo');
    expect([again.writtenBy, again.approvedBy]).to.deep.equal(['Bo', '']);
    // Who wrote it is another one now.
    expect((await save({ state: 'approved' }, 'Ada')).approvedBy).to.equal('Ada');
    await removeEntry(house.pool, entry.id, 'Ada');
    await saveSite(house.pool, 1, siteSettingsSchema.parse({}));
  });

  it('is a function of who was who before', () => {
    const before = { state: 'in review' as const, writtenBy: 'Ada', approvedBy: '' };
    expect(review(before, { state: 'approved' }, false, 'Bo', true)).to.deep.equal({
      writtenBy: 'Ada',
      approvedBy: 'Bo',
    });
    expect(review(before, { state: 'draft' }, true, 'Bo', true)).to.deep.equal({
      writtenBy: 'Bo',
      approvedBy: '',
    });
    expect(review(null, { state: 'draft' }, true, '', false)).to.deep.equal({
      writtenBy: '',
      approvedBy: '',
    });
  });

  it('has remarks, which are settled and opened again', async () => {
    const entry = await make({}, 'Ada');
    await addRemark(house.pool, entry.id, { field: 'summary', text: 'Which heron?' }, 'Bo');
    const [remark] = await listRemarks(house.pool, entry.id);
    expect(remark).to.include({ field: 'summary', text: 'Which heron?', by: 'Bo', isSettled: false });
    await settleRemark(house.pool, entry.id, remark!.id);
    expect((await listRemarks(house.pool, entry.id))[0]?.isSettled).to.equal(true);
    expect(await failure(settleRemark(house.pool, entry.id + 1, remark!.id))).to.be.instanceOf(NotFoundError);
    await removeEntry(house.pool, entry.id, 'Ada');
    expect(await listRemarks(house.pool, entry.id)).to.deep.equal([]);
  });

  it('refuses a site’s settings that are none', () => {
    const refuses = (settings: object): boolean => !siteSettingsSchema.safeParse(settings).success;
    expect(refuses({ address: 'ftp://x/' })).to.equal(true);
    expect(refuses({ address: 'javascript:alert(1)' })).to.equal(true);
    expect(refuses({ accent: 'red; } body { display: none' })).to.equal(true);
    expect(siteSettingsSchema.parse({ address: 'https://x.example/a' }).address).to.equal(
      'https://x.example/a/',
    );
  });

  it('is told what an update means: what changed in entries, what is new and in none, and what is due', async () => {
    const heron = await make({}, 'Ada');
    const reed = await make({ name: 'Reed', paths: ['reed.gif', 'bell.gif'] }, 'Ada');
    const details = { withheldUntil: '2' };
    const due = await make({ name: 'Secret', paths: ['words.txt'], state: 'withheld', details }, 'Ada');
    const later = await make(
      { name: 'Later', paths: ['words.txt'], state: 'withheld', details: { withheldUntil: '2999-01-01' } },
      'Ada',
    );
    const [one, two] = [
      await findBuild(house.pool, channelId, '1'),
      await findBuild(house.pool, channelId, '2'),
    ];
    const inbox = await readInbox(house.pool, one, two);
    expect(inbox.changed.map(({ name, path, what }) => [name, path, what])).to.deep.equal([
      ['Heron', 'heron.gif', 'changed'],
      ['Later', 'words.txt', 'came'],
      ['Reed', 'reed.gif', 'went'],
      ['Secret', 'words.txt', 'came'],
    ]);
    expect([inbox.newTotal, inbox.fresh.map(({ path }) => path)]).to.deep.equal([1, ['lantern.gif']]);
    expect(inbox.due.map(({ name, until }) => [name, until])).to.deep.equal([['Secret', '2']]);
    for (const { id } of [heron, reed, due, later]) await removeEntry(house.pool, id, 'Ada');
  });

  it('pages through entries, by state, by a part of a name and by asset', async () => {
    const made = [];
    for (const name of ['Alder', 'Birch', 'Cedar 100%']) made.push(await make({ name }, 'Ada'));
    made.push(await make({ name: 'Dune', state: 'published', paths: ['bell.gif'] }, 'Ada'));
    const find = (asked: object) =>
      findEntries(house.pool, entryQuerySchema.parse({ channel: channelId, ...asked }));
    const names = async (asked: object) => (await find(asked)).entries.map(({ name }) => name);
    expect(await names({})).to.deep.equal(['Alder', 'Birch', 'Cedar 100%', 'Dune']);
    expect(await names({ offset: 1, limit: 2 })).to.deep.equal(['Birch', 'Cedar 100%']);
    expect(await names({ text: '0%' })).to.deep.equal(['Cedar 100%']);
    expect(await names({ path: 'bell.gif' })).to.deep.equal(['Dune']);
    const published = await find({ state: 'published' });
    expect([published.total, published.states]).to.deep.equal([1, { draft: 3, published: 1 }]);
    for (const { id } of made) await removeEntry(house.pool, id, 'Ada');
  });
});
