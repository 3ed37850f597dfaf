import { expect } from 'chai';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { TestHouse } from '../../tests/support/worvel.ts';
import { change, select } from '../platform/database/rows.ts';
import { openStore, type ContentStore } from '../store/content-store.ts';
import { hashOf } from '../store/hash.ts';
import { freeContents } from './free-contents.ts';

/** Room is given back for what no build holds any more, and for nothing else. */
describe('freeContents', () => {
  const house = new TestHouse();
  let store: ContentStore;
  const words = ['reed', 'water', 'a lantern'];
  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    words.forEach((word, at) => writeFileSync(house.path('game', `${at}.txt`), word));
    await house.index(house.path('game'), 'Freed', '1');
    rmSync(house.path('game', '0.txt'));
    await house.index(house.path('game'), 'Freed', '2');
    store = openStore(house.pool, house.folder.store);
  });
  after(async () => {
    await store.close();
    await house.close();
  });

  const hash = (word: string): Buffer => hashOf(Buffer.from(word));
  const kept = async (): Promise<string[]> => {
    const found: string[] = [];
    for (const word of [...words, 'shown', 'a preview'])
      await store.read(hash(word).toString('hex')).then(
        (bytes) => found.push(bytes.toString()),
        () => undefined,
      );
    return found;
  };
  const free = (signal = new AbortController().signal) => {
    const told: number[] = [];
    return freeContents(house.pool, store, signal, (done) => told.push(done)).then((freed) => ({
      ...freed,
      told,
    }));
  };
  const count = async (table: string): Promise<number> =>
    (await select(house.pool, `SELECT 1 FROM ${table}`)).length;

  it('frees nothing while builds hold everything, removed in a later one or not', async () => {
    expect((await free()).contents).to.equal(0);
    expect(await kept()).to.deep.equal(words);
  });

  it('keeps what was shown of a content, its preview and its readings for as long as the content', async () => {
    const bytes = ['shown', 'a preview'].map((word) => ({ hash: hash(word), bytes: Buffer.from(word) }));
    await store.putMany(bytes);
    await change(
      house.pool,
      "INSERT INTO derivatives (source_hash, operation, parameters_digest, version, hash) VALUES (?, 'show', ?, 1, ?)",
      [hash('water'), Buffer.alloc(16), hash('shown')],
    );
    await change(
      house.pool,
      `INSERT INTO readings (hash, format, resources_digest, readers_version, preview_hash, resources) VALUES (?, 'obj', ?, 1, ?, '[]')`,
      [hash('water'), Buffer.alloc(16), hash('a preview')],
    );
    expect((await free()).contents).to.equal(0);
    expect(await kept()).to.deep.equal([...words, 'shown', 'a preview']);
    // The content goes out of all builds: with it all that was made of it.
    await change(house.pool, 'DELETE FROM asset_spans WHERE hash = ?', [hash('water')]);
    const freed = await free();
    expect(freed.contents).to.equal(3);
    expect(freed.told.at(-1)).to.equal(3);
    expect(await kept()).to.deep.equal(['reed', 'a lantern']);
    expect([await count('derivatives'), await count('readings')]).to.deep.equal([0, 0]);
  });

  it('goes away before it takes the next ones where it is stopped, and goes on later', async () => {
    await change(house.pool, 'DELETE FROM asset_spans WHERE hash = ?', [hash('reed')]);
    const stop = new AbortController();
    stop.abort(new Error('stopped'));
    expect(
      await free(stop.signal).then(
        () => 'freed',
        (error: unknown) => String(error),
      ),
    ).to.equal('Error: stopped');
    expect(await kept()).to.include('reed');
    expect((await free()).contents).to.equal(1);
    expect(await kept()).to.deep.equal(['a lantern']);
  });
});
