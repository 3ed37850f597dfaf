import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { lexiconChangeSchema, type LexiconChange } from '../../contract/names.ts';
import { usualRules } from '../../core/names/split.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { select } from '../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../platform/plain-error.ts';
import { newestChange, type Author } from '../people/history/change-log.ts';
import { undoChange } from '../people/history/kept-items.ts';
import { correctFamilies, keptFamilies } from './families/corrections.ts';
import { changeLexicon, keptLexicon, Lexicons, readLexiconState } from './names/lexicons.ts';
import { keptLinks, saveLinks } from './references/accepted-links.ts';

/** Names, links and families, as people said them: each with its way back. */
describe('What people say of a title', () => {
  const house = new TestHouse();
  const titleId = 1;
  const channelId = 1;
  before(async () => {
    await house.open();
    for (const path of ['models/gru.obj', 'models/gru_l1.obj', 'models/reed.obj', 'textures/gru.txt']) {
      mkdirSync(dirname(house.path('game', path)), { recursive: true });
      writeFileSync(house.path('game', path), path);
    }
    await house.index(house.path('game'), 'Said', '1');
  });
  after(() => house.close());

  const ada: Author = { by: 'Ada', seen: null };
  const failure = (promise: Promise<unknown>): Promise<unknown> =>
    promise.then(
      () => null,
      (error: unknown) => error,
    );
  const undoNewest = async (kept: Parameters<typeof undoChange>[1]): Promise<void> => {
    const outcome = await undoChange(house.pool, kept, await newestChange(house.pool), 'Ada');
    expect(outcome.conflicts).to.deep.equal([]);
  };
  const revision = async (): Promise<number> => (await readLexiconState(house.pool, titleId)).revision;

  describe('of names', () => {
    const put = (wanted: Partial<LexiconChange>, author = ada): Promise<void> =>
      changeLexicon(house.pool, titleId, lexiconChangeSchema.parse(wanted), author);
    const gru = { part: 'gru', role: 'code name', meaning: 'heron', saidBy: '', sinceBuild: '1' } as const;
    const parts = async (): Promise<string[]> =>
      (await readLexiconState(house.pool, titleId)).entries.map(
        ({ part, meaning, saidBy }) => `${part} ${meaning} ${saidBy}`,
      );

    it('keeps who said what, replaces what is said again, and drops', async () => {
      expect(await readLexiconState(house.pool, titleId)).to.deep.include({
        rules: usualRules,
        entries: [],
        refused: [],
      });
      await put({ put: [gru, { ...gru, part: 'boat', meaning: 'ferry', saidBy: 'a list' }] });
      expect(await parts()).to.deep.equal(['boat ferry a list', 'gru heron Ada']);
      await put({ put: [{ ...gru, meaning: 'white heron' }], drop: ['boat'] }, { by: 'Bo', seen: null });
      expect(await parts()).to.deep.equal(['gru white heron Bo']);
      await undoNewest(keptLexicon);
      expect(await parts()).to.deep.equal(['boat ferry a list', 'gru heron Ada']);
    });

    it('takes a part for the same in any case of letters', async () => {
      await put({ drop: ['BOAT'] });
      expect(await parts()).to.deep.equal(['gru heron Ada']);
    });

    it('refuses a change that was made from what is no longer so', async () => {
      const made = await revision();
      await put({ put: [{ ...gru, part: 'reed' }], revision: made });
      const error = await failure(put({ put: [{ ...gru, part: 'pier' }], revision: made }));
      expect(error).to.be.instanceOf(ConflictError);
      expect((await parts()).join()).not.to.include('pier');
      await undoNewest(keptLexicon);
    });

    it('knows what is not to be proposed, and by which rules names are split', async () => {
      const rules = { separators: '.', camelCase: false, digitsApart: true };
      await put({ refuse: ['tmp'], rules });
      const state = await readLexiconState(house.pool, titleId);
      expect([state.refused, state.rules]).to.deep.equal([['tmp'], rules]);
      await undoNewest(keptLexicon);
      const before = await readLexiconState(house.pool, titleId);
      expect([before.refused, before.rules]).to.deep.equal([[], usualRules]);
      expect(await failure(readLexiconState(house.pool, 99))).to.be.instanceOf(NotFoundError);
    });

    it('is read once for each revision, and again when it failed', async () => {
      const lexicons = new Lexicons(house.pool);
      const first = lexicons.get({ titleId, namesRevision: 1 });
      expect(lexicons.get({ titleId, namesRevision: 1 })).to.equal(first);
      expect(lexicons.get({ titleId, namesRevision: 2 })).not.to.equal(first);
      const lost = lexicons.get({ titleId: 99, namesRevision: 1 });
      expect(await failure(lost)).to.be.instanceOf(NotFoundError);
      expect(lexicons.get({ titleId: 99, namesRevision: 1 }).catch(() => null)).not.to.equal(lost);
    });

    it('takes thousands at once', async () => {
      const many = Array.from({ length: 1200 }, (_, at) => ({ ...gru, part: `part${at}` }));
      await put({ put: many });
      expect(await parts()).to.have.length(1201);
      await undoNewest(keptLexicon);
      expect(await parts()).to.deep.equal(['gru heron Ada']);
    });
  });

  describe('of links', () => {
    const link = (from: string, text: string, target: string) => ({ from, text, target });
    const links = async (): Promise<string[]> =>
      (
        await select<{ text: string; source: string; target: string }>(
          house.pool,
          `SELECT l.text, f.path AS source, t.path AS target FROM accepted_links l
             JOIN paths f ON f.digest = l.from_digest JOIN paths t ON t.digest = l.target_digest ORDER BY 1`,
        )
      ).map(({ text, source, target }) => `${source} “${text}” ${target}`);

    it('keeps one target for a text in a file, whoever said it last, and takes it back', async () => {
      const before = await revision();
      await saveLinks(
        house.pool,
        channelId,
        [link('models/gru.obj', 'gru.mtl', 'textures/gru.txt')],
        [],
        ada,
      );
      expect(await revision()).to.be.above(before);
      await saveLinks(house.pool, channelId, [link('models/gru.obj', 'gru.mtl', 'models/reed.obj')], [], ada);
      expect(await links()).to.deep.equal(['models/gru.obj “gru.mtl” models/reed.obj']);
      await undoNewest(keptLinks);
      expect(await links()).to.deep.equal(['models/gru.obj “gru.mtl” textures/gru.txt']);
      await saveLinks(house.pool, channelId, [], [{ from: 'models/gru.obj', text: 'gru.mtl' }], ada);
      expect(await links()).to.deep.equal([]);
      await undoNewest(keptLinks);
      expect(await links()).to.deep.equal(['models/gru.obj “gru.mtl” textures/gru.txt']);
    });

    it('tells texts of one file apart, with line breaks and blanks in them', async () => {
      await saveLinks(
        house.pool,
        channelId,
        [
          link('models/gru.obj', 'a\nb', 'models/reed.obj'),
          link('models/gru.obj', 'a b', 'models/gru_l1.obj'),
        ],
        [],
        ada,
      );
      expect(await links()).to.have.length(3);
      await undoNewest(keptLinks);
      expect(await links()).to.have.length(1);
    });

    it('lets nobody overwrite what they have not seen', async () => {
      const seen = await newestChange(house.pool);
      await saveLinks(house.pool, channelId, [link('models/gru.obj', 'x', 'models/reed.obj')], [], ada);
      const error = await failure(
        saveLinks(house.pool, channelId, [link('models/gru.obj', 'x', 'models/gru_l1.obj')], [], {
          by: 'Bo',
          seen,
        }),
      );
      expect(String(error)).to.include('Ada was faster');
    });
  });

  describe('of families', () => {
    const correct = (paths: string[], other: string | null, undo = false): Promise<void> =>
      correctFamilies(house.pool, channelId, { paths, with: other, undo }, ada);
    const corrections = async (): Promise<string[]> =>
      (
        await select<{ path: string; other: string | null }>(
          house.pool,
          `SELECT p.path, o.path AS other FROM family_corrections f JOIN paths p ON p.digest = f.path_digest
             LEFT JOIN paths o ON o.digest = f.with_digest ORDER BY p.path`,
        )
      ).map(({ path, other }) => `${path} with ${other ?? 'none'}`);

    it('keeps with which file another belongs, that one belongs to none, and what is taken back', async () => {
      await correct(['models/gru_l1.obj'], 'models/gru.obj');
      await correct(['models/reed.obj'], null);
      expect(await corrections()).to.deep.equal([
        'models/gru_l1.obj with models/gru.obj',
        'models/reed.obj with none',
      ]);
      await correct(['models/gru_l1.obj', 'models/reed.obj'], null, true);
      expect(await corrections()).to.deep.equal([]);
      await undoNewest(keptFamilies);
      expect(await corrections()).to.have.length(2);
    });
  });
});
