import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { entryDraftSchema, type EntryDraft } from '../../../contract/catalogue.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { newestChange } from '../../people/history/change-log.ts';
import { undoChange } from '../../people/history/kept-items.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import { createEntry, findEntry, keptEntries, listEntries, removeEntry, saveEntry } from './entries.ts';
import { findNote, keptNotes, pathsWithNotes, saveNote } from '../notes/notes.ts';

const channelId = 1;
const failure = (promise: Promise<unknown>): Promise<unknown> =>
  promise.then(
    () => null,
    (error: unknown) => error,
  );

/** The catalogue as people write it, over two builds. */
describe('Entries and notes', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    writeFileSync(house.path('game', 'heron.json'), '{"legs": 2}');
    writeFileSync(house.path('game', 'reed.json'), '{"height": 1}');
    await house.index(house.path('game'), 'Written', '1');
    writeFileSync(house.path('game', 'heron.json'), '{"legs": 2, "bill": 1}');
    writeFileSync(house.path('game', 'lantern.json'), '{"light": true}');
    await house.index(house.path('game'), 'Written', '2');
  });
  after(() => house.close());

  const draft = (more: Partial<EntryDraft>): EntryDraft =>
    entryDraftSchema.parse({ channelId, name: 'Heron', paths: ['heron.json'], ...more });

  it('have what the newest build has of each asset, and the build that had it first', async () => {
    const entry = await createEntry(
      house.pool,
      draft({ paths: ['heron.json', 'lantern.json', 'nowhere.json', 'heron.json'] }),
      'Ada',
    );
    expect(entry.revision).to.equal(1);
    expect(
      entry.assets.map(({ path, build, firstBuild, size }) => [path, build, firstBuild, size]),
    ).to.deep.equal([
      ['heron.json', '2', '1', 22],
      ['lantern.json', '2', '2', 15],
      ['nowhere.json', null, null, null],
    ]);
    await removeEntry(house.pool, entry.id, 'Ada');
    expect(await failure(findEntry(house.pool, entry.id))).to.be.instanceOf(NotFoundError);
  });

  it('are saved from the revision that was read, and from no other', async () => {
    const entry = await createEntry(house.pool, draft({}), 'Ada');
    const saved = await saveEntry(house.pool, entry.id, draft({ name: 'White heron' }), entry.revision, 'Bo');
    expect([saved.name, saved.revision]).to.deep.equal(['White heron', entry.revision + 1]);
    const late = await failure(
      saveEntry(house.pool, entry.id, draft({ name: 'Grey heron' }), entry.revision, 'Ada'),
    );
    expect(late).to.be.instanceOf(ConflictError);
    expect((await findEntry(house.pool, entry.id)).name).to.equal('White heron');
    await removeEntry(house.pool, entry.id, 'Ada');
  });

  it('save one of several at once, and tell the others', async () => {
    const entry = await createEntry(house.pool, draft({}), 'Ada');
    const outcomes = await Promise.all(
      ['a', 'b', 'c', 'd'].map((name) =>
        failure(saveEntry(house.pool, entry.id, draft({ name }), entry.revision, name)),
      ),
    );
    expect(outcomes.filter((outcome) => outcome === null)).to.have.length(1);
    expect(outcomes.filter((outcome) => outcome instanceof ConflictError)).to.have.length(3);
    await removeEntry(house.pool, entry.id, 'Ada');
  });

  it('come back whole when their removal is undone, in the order of their assets', async () => {
    const made = await createEntry(
      house.pool,
      draft({ summary: 'Stands.', spoiler: true, state: 'withheld', paths: ['reed.json', 'heron.json'] }),
      'Ada',
    );
    await removeEntry(house.pool, made.id, 'Ada');
    await undoChange(house.pool, keptEntries, await newestChange(house.pool), 'Ada');
    const back = await findEntry(house.pool, made.id);
    expect(back).to.deep.include({ summary: 'Stands.', spoiler: true, state: 'withheld' });
    expect(back.paths).to.deep.equal(['reed.json', 'heron.json']);
    await removeEntry(house.pool, made.id, 'Ada');
    // Nothing happens where there is none any more.
    await removeEntry(house.pool, made.id, 'Ada');
    expect(await failure(saveEntry(house.pool, made.id, draft({}), back.revision, 'Ada'))).to.be.instanceOf(
      ConflictError,
    );
  });

  it('are listed by name, of the channels that were asked for', async () => {
    for (const name of ['Reed', 'Bell', 'Heron']) await createEntry(house.pool, draft({ name }), 'Ada');
    const names = (await listEntries(house.pool, [channelId])).map(({ name }) => name);
    expect(names).to.deep.equal(['Bell', 'Heron', 'Reed']);
    expect(await listEntries(house.pool, [])).to.deep.equal([]);
    expect(await listEntries(house.pool, [99])).to.deep.equal([]);
  });

  it('a note is nobody’s before it is written; a save names the revision that it was made from', async () => {
    const none = await findNote(house.pool, channelId, 'heron.json');
    expect(none).to.deep.equal({ body: '', steps: [], revision: 0, savedAt: null });
    const first = await saveNote(
      house.pool,
      { channel: channelId, path: 'heron.json', body: '1. Open it', steps: [], revision: 0 },
      'Ada',
    );
    expect([first.body, first.revision]).to.deep.equal(['1. Open it', 1]);
    const late = await failure(
      saveNote(
        house.pool,
        { channel: channelId, path: 'heron.json', body: 'Mine', steps: [], revision: 0 },
        'Bo',
      ),
    );
    expect(String(late)).to.include('copy your text');
    expect((await findNote(house.pool, channelId, 'heron.json')).body).to.equal('1. Open it');
    await saveNote(
      house.pool,
      { channel: channelId, path: 'heron.json', body: '2. Look', steps: [], revision: 1 },
      'Bo',
    );
    await undoChange(house.pool, keptNotes, await newestChange(house.pool), 'Bo');
    const back = await findNote(house.pool, channelId, 'heron.json');
    // What is taken back is a save like any other: nobody saves over it unseen.
    expect([back.body, back.revision]).to.deep.equal(['1. Open it', 3]);
  });

  it('notes that are empty count as none', async () => {
    await saveNote(
      house.pool,
      { channel: channelId, path: 'reed.json', body: 'Grows.', steps: [], revision: 0 },
      'Ada',
    );
    const paths = ['heron.json', 'reed.json', 'lantern.json'];
    expect([...(await pathsWithNotes(house.pool, channelId, paths))].sort()).to.deep.equal([
      'heron.json',
      'reed.json',
    ]);
    await saveNote(
      house.pool,
      { channel: channelId, path: 'reed.json', body: '', steps: [], revision: 1 },
      'Ada',
    );
    expect([...(await pathsWithNotes(house.pool, channelId, paths))]).to.deep.equal(['heron.json']);
    expect((await pathsWithNotes(house.pool, channelId, [])).size).to.equal(0);
  });
});
