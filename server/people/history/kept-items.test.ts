import { expect } from 'chai';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { migrate } from '../../platform/database/migrate.ts';
import { change, select } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import { changesAfter, listChanges, listItems, newestChange, type Author } from './change-log.ts';
import { changeItems, scopeOf, undoChange, type KeptItems } from './kept-items.ts';

/** What people say of anything, with who said it, and the way back. */
describe('Kept items', () => {
  const house = new TestHouse();
  let titleId = 0;
  before(async () => {
    await house.open();
    await migrate(house.pool);
    ({ insertId: titleId } = await change(
      house.pool,
      "INSERT INTO titles (name, rights) VALUES ('Kept', '')",
    ));
    await change(house.pool, 'CREATE TABLE kept_words (item VARCHAR(100) PRIMARY KEY, word TEXT)');
  });
  after(() => house.close());
  afterEach(async () => {
    for (const table of ['kept_words', 'change_items', 'changes'])
      await change(house.pool, `DELETE FROM ${table}`);
  });

  const words: KeptItems = {
    subject: 'links',
    async read(connection, _scope, items) {
      const rows = await select<{ item: string; word: string }>(
        connection,
        'SELECT item, word FROM kept_words WHERE item IN (?) FOR UPDATE',
        [items],
      );
      return new Map(rows.map(({ item, word }) => [item, word]));
    },
    async write(connection, _scope, states) {
      for (const [item, word] of states) {
        if (word === '"broken"') throw new Error('the disk is full');
        if (word === null) await change(connection, 'DELETE FROM kept_words WHERE item = ?', [item]);
        else await change(connection, 'REPLACE INTO kept_words (item, word) VALUES (?, ?)', [item, word]);
      }
    },
  };
  const scope = (): { titleId: number; channelId: null } => ({ titleId, channelId: null });
  const put = (
    values: Record<string, string | null>,
    author: Partial<Author> = {},
    what = 'put',
  ): Promise<number> =>
    changeItems(house.pool, words, scope(), new Map(Object.entries(values)), what, {
      by: 'Ada',
      seen: null,
      ...author,
    });
  const now = async (): Promise<Record<string, string>> =>
    Object.fromEntries(
      (
        await select<{ item: string; word: string }>(
          house.pool,
          'SELECT item, word FROM kept_words ORDER BY item',
        )
      ).map(({ item, word }) => [item, word]),
    );
  const failure = (promise: Promise<unknown>): Promise<unknown> =>
    promise.then(
      () => null,
      (error: unknown) => error,
    );

  it('are changed together, with what they were and what they are in the history', async () => {
    const first = await put({ a: '"one"', b: '"two"' });
    const second = await put({ a: null, b: '"two"', c: '"three"' }, { by: 'Bo' }, 'cleared');
    expect(second).to.be.above(first);
    expect(await now()).to.deep.equal({ b: '"two"', c: '"three"' });
    // What stayed as it was is no change.
    expect(await listItems(house.pool, second)).to.deep.equal([
      { item: 'a', before: '"one"', after: null },
      { item: 'c', before: null, after: '"three"' },
    ]);
    const { changes, people, total } = await listChanges(house.pool, {
      title: titleId,
      subject: '',
      by: '',
      offset: 0,
      limit: 10,
    });
    expect(changes.map(({ doneBy, what, items }) => [doneBy, what, items])).to.deep.equal([
      ['Bo', 'cleared', 2],
      ['Ada', 'put', 2],
    ]);
    expect([people, total]).to.deep.equal([['Ada', 'Bo'], 2]);
  });

  it('write nothing down where all was so already', async () => {
    await put({ a: '"one"' });
    const before = await newestChange(house.pool);
    expect(await put({ a: '"one"', b: null })).to.equal(0);
    expect(await newestChange(house.pool)).to.equal(before);
  });

  it('change all or none: a failure on the way leaves them as they were, and no history', async () => {
    await put({ a: '"one"' });
    const before = await newestChange(house.pool);
    const error = await failure(put({ a: '"other"', z: '"broken"' }));
    expect(String(error)).to.include('the disk is full');
    expect(await now()).to.deep.equal({ a: '"one"' });
    expect(await newestChange(house.pool)).to.equal(before);
  });

  it('refuse to overwrite what somebody else said unseen, and say who and what', async () => {
    const seen = await put({ a: '"one"' });
    await put({ a: '"bo"' }, { by: 'Bo', seen }, 'said bo');
    const error = await failure(put({ a: '"ada"' }, { by: 'Ada', seen }));
    expect(error).to.be.instanceOf(ConflictError);
    expect(String(error)).to.include('Bo was faster: said bo');
    expect(await now()).to.deep.equal({ a: '"bo"' });
    // Another item, one's own change, and what has been seen are no conflict.
    await put({ b: '"ada"' }, { by: 'Ada', seen });
    await put({ a: '"bo again"' }, { by: 'Bo', seen });
    await put({ a: '"ada"' }, { by: 'Ada', seen: await newestChange(house.pool) });
    expect(await now()).to.deep.equal({ a: '"ada"', b: '"ada"' });
  });

  it('are as before after undo, and after undo of undo as they were', async () => {
    await put({ a: '"one"', b: '"two"' });
    const before = await now();
    const id = await put({ a: '"other"', b: null, c: '"new"' });
    const after = await now();
    const back = await undoChange(house.pool, words, id, 'Bo');
    expect(back).to.include({ changed: 3 });
    expect(await now()).to.deep.equal(before);
    await undoChange(house.pool, words, back.change, 'Bo');
    expect(await now()).to.deep.equal(after);
    const twice = await failure(undoChange(house.pool, words, id, 'Ada'));
    expect(String(twice)).to.include('undone already');
  });

  it('keep at undo what was changed since, and say which', async () => {
    const id = await put({ a: '"one"', b: '"two"' });
    await put({ a: '"since"' }, { by: 'Bo' });
    expect(await undoChange(house.pool, words, id, 'Ada')).to.deep.include({ changed: 1, conflicts: ['a'] });
    expect(await now()).to.deep.equal({ a: '"since"' });
    const other = await put({ c: '"three"' });
    await put({ c: '"four"' }, { by: 'Bo' });
    expect(await undoChange(house.pool, words, other, 'Ada')).to.deep.equal({
      change: 0,
      changed: 0,
      conflicts: ['c'],
    });
  });

  it('undo any random run of changes, one after the other, back to nothing', async () => {
    let seed = 7;
    const random = (below: number): number => (seed = (seed * 1103515245 + 12345) % 2147483648) % below;
    const ids: number[] = [];
    for (let round = 0; round < 25; round++) {
      const values = Array.from({ length: 1 + random(4) }, () => [
        `item ${random(6)}`,
        random(4) === 0 ? null : JSON.stringify(random(50)),
      ]);
      const id = await put(Object.fromEntries(values) as Record<string, string | null>);
      if (id !== 0) ids.push(id);
    }
    for (const id of ids.reverse())
      expect(await undoChange(house.pool, words, id, 'Bo')).to.deep.include({ conflicts: [] });
    expect(await now()).to.deep.equal({});
  });

  it('become one after the other when many change them at once', async () => {
    await Promise.all(
      Array.from({ length: 12 }, (_, at) =>
        put({ shared: JSON.stringify(at), [`own ${at}`]: '1' }, { by: `p${at}` }),
      ),
    );
    const told = await changesAfter(house.pool, 0, 100);
    expect(told).to.have.length(12);
    // Each found what the one before it had left.
    let last: string | null = null;
    for (const { id } of told) {
      const item = (await listItems(house.pool, id)).find(({ item: name }) => name === 'shared');
      expect(item?.before ?? null).to.equal(last);
      last = item?.after ?? null;
    }
    expect((await now()).shared).to.equal(last);
  });

  it('hold thousands in one change', async () => {
    const many = Object.fromEntries(Array.from({ length: 1300 }, (_, at) => [`m${at}`, `"${at}"`]));
    const id = await put(many);
    expect(Object.keys(await now())).to.have.length(1300);
    expect(await listItems(house.pool, id)).to.have.length(200);
    expect((await undoChange(house.pool, words, id, 'Ada')).changed).to.equal(1300);
  });

  it('know what a change was in, and say where there is none', async () => {
    const id = await put({ a: '"one"' }, {}, 'x'.repeat(1000));
    expect(await scopeOf(house.pool, id)).to.deep.include({ titleId, channelId: null, subject: 'links' });
    expect((await scopeOf(house.pool, id)).what).to.have.length(300);
    expect(await failure(scopeOf(house.pool, 1e9))).to.be.instanceOf(NotFoundError);
  });
});
