import { expect } from 'chai';
import fc from 'fast-check';
import {
  changeEventSchema,
  changePageSchema,
  undoOutcomeSchema,
  type ChangePage,
} from '../contract/history.ts';
import { findChannel } from '../server/acquire/builds/builds.ts';
import { keptSetting } from '../server/acquire/builds/title-settings.ts';
import { correctFamilies, keptFamilies } from '../server/library/families/corrections.ts';
import { changeLexicon, keptLexicon, readLexiconState } from '../server/library/names/lexicons.ts';
import { readRecipes, saveRecipes } from '../server/library/recipes/recipes.ts';
import { keptLinks, saveLinks } from '../server/library/references/accepted-links.ts';
import { readRules, saveRules } from '../server/changes/noise/rules.ts';
import { newestChange } from '../server/people/history/change-log.ts';
import { changeItems, undoChange, type KeptItems } from '../server/people/history/kept-items.ts';
import { change, select } from '../server/platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../server/platform/plain-error.ts';
import {
  createEntry,
  keptEntries,
  listEntries,
  removeEntry,
  saveEntry,
} from '../server/publishing/entries/entries.ts';
import { findNote, keptNotes, saveNote } from '../server/publishing/notes/notes.ts';
import { entryDraftSchema } from '../contract/catalogue.ts';
import { lexiconChangeSchema } from '../contract/names.ts';
import { mkdirSync, writeFileSync } from 'node:fs';
import { pathDigest } from '../server/store/hash.ts';
import { EventReader } from './support/event-reader.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'History';
const ada = { by: 'Ada', seen: null };

/** One log of all that people change: who, what it was before, and the way back. */
describe('The history of what people say', () => {
  const house = new TestHouse();
  let titleId: number;
  let channelId: number;
  const paths = ['a.txt', 'b.txt', 'c.txt'];
  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    for (const path of paths) writeFileSync(house.path('game', path), `the text of ${path}`);
    await house.index(house.path('game'), title, '1');
    channelId = await findChannel(house.pool, title, 'main');
    titleId = (await select<{ id: number }>(house.pool, 'SELECT id FROM titles'))[0]?.id ?? 0;
  });
  after(() => house.close());
  afterEach(async () => {
    for (const table of [
      'change_items',
      'changes',
      'lexicon',
      'accepted_links',
      'family_corrections',
      'notes',
    ])
      await change(house.pool, `DELETE FROM ${table}`);
    await change(house.pool, 'UPDATE titles SET noise_rules = NULL, recipes = NULL, split_rules = NULL');
    await change(house.pool, 'DELETE FROM entries');
  });

  const last = (): Promise<number> => newestChange(house.pool);
  const undoLast = async (kept: KeptItems): Promise<void> => {
    const { conflicts } = await undoChange(house.pool, kept, await last(), 'Bo');
    expect(conflicts).to.deep.equal([]);
  };

  it('undo after do is nothing, for any changes of names in any order', async () => {
    const part = fc.constantFrom('gru', 'lum', 'pier', 'Über', 'l#');
    const entry = fc.record({
      part,
      role: fc.constantFrom('code name' as const, 'LOD' as const, 'view' as const),
      meaning: fc.string({ maxLength: 20 }),
    });
    const oneChange = fc.record({
      put: fc.array(entry, { maxLength: 3 }),
      drop: fc.array(part, { maxLength: 2 }),
      refuse: fc.array(part, { maxLength: 2 }),
    });
    const state = async (): Promise<unknown> => {
      const { revision: _, ...rest } = await readLexiconState(house.pool, titleId);
      return rest;
    };
    await fc.assert(
      fc.asyncProperty(fc.array(oneChange, { minLength: 1, maxLength: 4 }), async (changes) => {
        const before = await state();
        const done: number[] = [];
        for (const one of changes) {
          const newest = await last();
          await changeLexicon(house.pool, titleId, lexiconChangeSchema.parse(one), ada);
          const now = await last();
          if (now > newest) done.push(now);
        }
        const after = await state();
        const taken: number[] = [];
        for (const id of done.reverse())
          taken.push((await undoChange(house.pool, keptLexicon, id, 'Bo')).change);
        expect(await state()).to.deep.equal(before);
        // What was undone is a change too, and can be taken back.
        for (const id of taken.reverse()) await undoChange(house.pool, keptLexicon, id, 'Ada');
        expect(await state()).to.deep.equal(after);
        for (const id of taken) expect(id).to.be.above(0);
        await change(house.pool, 'DELETE FROM lexicon');
      }),
      { seed: 11, numRuns: 25 },
    );
  });

  it('takes back links, families, rules, recipes, notes and entries', async () => {
    const links = [{ from: 'a.txt', text: 'b', target: 'b.txt' }];
    await saveLinks(house.pool, channelId, links, [], ada);
    expect(await select(house.pool, 'SELECT text FROM accepted_links')).to.have.length(1);
    await undoLast(keptLinks);
    expect(await select(house.pool, 'SELECT text FROM accepted_links')).to.have.length(0);

    await correctFamilies(
      house.pool,
      channelId,
      { paths: ['a.txt', 'c.txt'], with: 'b.txt', undo: false },
      ada,
    );
    await correctFamilies(house.pool, channelId, { paths: ['a.txt'], with: null, undo: false }, ada);
    await undoLast(keptFamilies);
    const families = await select<{ other: Buffer }>(
      house.pool,
      'SELECT with_digest AS other FROM family_corrections WHERE path_digest = ?',
      [pathDigest('a.txt')],
    );
    expect(families.map(({ other }) => other.equals(pathDigest('b.txt')))).to.deep.equal([true]);

    const { rules, revision } = await readRules(house.pool, titleId);
    const flipped = rules.map((rule) => ({ ...rule, isOn: !rule.isOn }));
    await saveRules(house.pool, titleId, flipped, revision, 'Ada');
    expect((await readRules(house.pool, titleId)).rules).to.deep.equal(flipped);
    await undoLast(keptSetting('noise_rules'));
    expect(await readRules(house.pool, titleId)).to.deep.equal({ rules, revision });

    const recipes = await readRecipes(house.pool, titleId);
    await saveRecipes(house.pool, titleId, recipes, 'Ada');
    await undoLast(keptSetting('recipes'));
    expect(await readRecipes(house.pool, titleId)).to.deep.equal(recipes);

    const note = { channel: channelId, path: 'a.txt', steps: [] };
    await saveNote(house.pool, { ...note, body: 'first', revision: 0 }, 'Ada');
    await saveNote(house.pool, { ...note, body: 'second “with quotes” \n and lines', revision: 1 }, 'Ada');
    await undoLast(keptNotes);
    expect(await findNote(house.pool, channelId, 'a.txt')).to.include({ body: 'first', revision: 3 });

    const draft = entryDraftSchema.parse({
      channelId,
      name: 'A text',
      internalName: 'a',
      summary: 'of one line',
      credits: '',
      spoiler: true,
      state: 'draft',
      paths: ['b.txt', 'a.txt'],
    });
    const entry = await createEntry(house.pool, draft, 'Ada');
    await saveEntry(
      house.pool,
      entry.id,
      { ...draft, name: 'Another', paths: ['c.txt'] },
      entry.revision,
      'Ada',
    );
    await undoLast(keptEntries);
    const [back] = await listEntries(house.pool, [channelId]);
    expect(back).to.deep.include(draft);
    await removeEntry(house.pool, entry.id, 'Ada');
    expect(await listEntries(house.pool, [channelId])).to.deep.equal([]);
    await undoLast(keptEntries);
    expect((await listEntries(house.pool, [channelId])).map(({ id, paths: of }) => [id, of])).to.deep.equal([
      [entry.id, ['b.txt', 'a.txt']],
    ]);
  });

  it('leaves alone what was changed again since, and says so', async () => {
    const scope = { titleId, channelId };
    const says = (item: string, other: string, by: string): Promise<number> =>
      changeItems(house.pool, keptFamilies, scope, new Map([[item, JSON.stringify({ with: other })]]), 'x', {
        by,
        seen: null,
      });
    const first = await says('a.txt', 'b.txt', 'Ada');
    await says('a.txt', 'c.txt', 'Bo');
    expect(await undoChange(house.pool, keptFamilies, first, 'Ada')).to.deep.equal({
      change: 0,
      changed: 0,
      conflicts: ['a.txt'],
    });
    let refused: unknown;
    await undoChange(house.pool, keptFamilies, first, 'Ada').catch((error: unknown) => (refused = error));
    expect(refused).to.be.instanceOf(ConflictError);
    await undoChange(house.pool, keptFamilies, 4_000_000, 'Ada').catch((error: unknown) => (refused = error));
    expect(refused).to.be.instanceOf(NotFoundError);
  });

  it('refuses what would overwrite unseen what another one said, and says who and what', async () => {
    const put = (meaning: string, by: string, seen: number | null): Promise<void> =>
      changeLexicon(
        house.pool,
        titleId,
        lexiconChangeSchema.parse({ put: [{ part: 'gru', role: 'code name', meaning }] }),
        { by, seen },
      );
    await put('heron', 'Ada', null);
    const seen = await last();
    await put('crane', 'Bo', seen);
    let message = '';
    await put('stork', 'Ada', seen).catch((error: unknown) => (message = String(error)));
    expect(message).to.include('Bo was faster: “gru” is crane');
    expect((await readLexiconState(house.pool, titleId)).entries[0]).to.include({
      meaning: 'crane',
      saidBy: 'Bo',
    });
    await put('stork', 'Bo', seen);
    await put('egret', 'Ada', await last());
    expect((await readLexiconState(house.pool, titleId)).entries[0]?.meaning).to.equal('egret');
  });

  it('keeps changes of several people at once apart: each is whole, and none is lost', async () => {
    await Promise.all(
      ['Ada', 'Bo', 'Cleo', 'Dan'].map(async (by) => {
        for (let round = 0; round < 5; round++)
          await changeLexicon(
            house.pool,
            titleId,
            lexiconChangeSchema.parse({
              put: [{ part: `${by}${round}`, role: 'code name', meaning: by }],
            }),
            { by, seen: null },
          );
      }),
    );
    expect((await readLexiconState(house.pool, titleId)).entries).to.have.length(20);
    const rows = await select<{ count: number }>(house.pool, 'SELECT COUNT(*) AS count FROM change_items');
    expect(rows[0]?.count).to.equal(20);
  });

  it('is served with who it was, and taken back, by a name that the server remembers', async () => {
    const url = await house.serve(house.port);
    const first = await fetch(`${url}/api/person`);
    expect(((await first.json()) as { name: string }).name).to.match(/^guest \d{3}$/);
    const renamed = await fetch(`${url}/api/person`, {
      method: 'PUT',
      body: JSON.stringify({ name: '  Zoë, the second ' }),
    });
    const cookie = (renamed.headers.get('set-cookie') ?? '').split(';')[0] ?? '';
    expect(renamed.headers.get('set-cookie')).to.match(/HttpOnly; SameSite=Strict/);
    const send = (method: string, path: string, body?: unknown, headers = {}): Promise<Response> =>
      fetch(`${url}/api/${path}`, {
        method,
        headers: { cookie, ...headers },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
    const lexicon = { put: [{ part: 'lum', role: 'code name', meaning: 'lantern' }] };
    expect((await send('POST', `titles/${titleId}/lexicon`, lexicon)).status).to.equal(200);
    await send('PUT', 'notes', { channel: channelId, path: 'a.txt', body: 'how', revision: 0 });
    const list = async (query = ''): Promise<ChangePage> =>
      changePageSchema.parse(await (await send('GET', `changes?title=${titleId}${query}`)).json());
    const { changes, people, total } = await list();
    expect([total, people]).to.deep.equal([2, ['Zoë, the second']]);
    expect(changes.map(({ subject, what }) => `${subject}: ${what}`)).to.deep.equal([
      'notes: wrote the note on a.txt',
      'lexicon: “lum” is lantern',
    ]);
    expect((await list('&subject=notes')).total).to.equal(1);
    expect((await list('&by=nobody')).total).to.equal(0);
    // A window is told first how far things are, then what others change.
    const events = await EventReader.open(`${url}/api/events`);
    const newest = changes[0]?.id ?? 0;
    expect((await events.next('changes')).data).to.deep.equal({ newest, change: null });
    await send('PUT', 'notes', { channel: channelId, path: 'b.txt', body: 'too', revision: 0 });
    const told = changeEventSchema.parse((await events.next('changes')).data);
    expect(told.change).to.include({
      subject: 'notes',
      what: 'wrote the note on b.txt',
      doneBy: 'Zoë, the second',
    });
    await events.close();
    await send('POST', `changes/${told.change?.id ?? 0}/undo`);
    const id = changes[1]?.id ?? 0;
    const items: unknown = await (await send('GET', `changes/${id}/items`)).json();
    expect(items).to.have.length(1);
    expect(undoOutcomeSchema.parse(await (await send('POST', `changes/${id}/undo`)).json()).changed).to.equal(
      1,
    );
    expect((await send('POST', `changes/${id}/undo`)).status).to.equal(409);
    expect((await send('POST', 'changes/x/undo')).status).to.equal(404);
    expect((await send('GET', 'changes?title=x')).status).to.equal(400);
    expect(
      (await list()).changes.map(({ isUndone, what }) => `${what}${isUndone ? ', undone' : ''}`),
    ).to.deep.equal([
      'took back: “lum” is lantern',
      'took back: wrote the note on b.txt',
      'wrote the note on b.txt, undone',
      'wrote the note on a.txt',
      '“lum” is lantern, undone',
    ]);
    // A window that has not seen what somebody else did is told.
    const other = await send('POST', `titles/${titleId}/lexicon`, lexicon, { cookie: 'worvel_person=Bo' });
    expect(other.status).to.equal(200);
    const late = await send(
      'POST',
      `titles/${titleId}/lexicon`,
      { put: [{ part: 'lum', role: 'code name', meaning: 'lamp' }] },
      { 'x-worvel-seen': String(id) },
    );
    expect(late.status).to.equal(409);
  });
});
