import { expect } from 'chai';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sign } from '../../demo/pictures.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { hashOf } from '../store/hash.ts';
import type { ContentPlace } from '../store/layout.ts';
import { PackWriter } from '../store/pack-writer.ts';
import { failedOutcome } from './operations.ts';
import { ReaderPool } from './reader-pool.ts';
import { ReaderProcesses } from './reader-processes.ts';

describe('ReaderPool', () => {
  const house = new TestHouse();
  let places: ContentPlace[];
  let pool: ReaderPool;
  before(async () => {
    await house.open();
    const packs = new PackWriter(house.folder.store);
    // A JSON of this depth takes a good while to count; a picture takes none.
    const slow = Buffer.from(`[${'[1],'.repeat(6_000_000)}1]`);
    const contents = [await sign('a', 64, [1, 2, 3], 'png'), slow, Buffer.from('{"a": 1, "b": 2}')];
    const { migrate } = await import('../platform/database/migrate.ts');
    await migrate(house.pool);
    places = [];
    for (const bytes of contents)
      places.push(...(await packs.append(house.pool, [{ hash: hashOf(bytes), bytes }])));
    await packs.seal(house.pool);
  });
  after(() => house.close());
  afterEach(() => pool.close());

  const poolOf = (readers: number, seconds = 60): ReaderPool =>
    new ReaderPool(new ReaderProcesses(house.folder.store, 0), { readers, seconds });
  const read = (index: number, format: string, path: string) => {
    const place = places[index];
    if (!place) throw new Error('no such content');
    return pool.run({ type: 'facts', content: { path, format, place } }, () => Promise.resolve(null));
  };

  it('reads facts and previews, in order of asking, with as many readers as it was given', async () => {
    pool = poolOf(2);
    const [picture, text] = await Promise.all([read(0, 'png', 'a.png'), read(2, 'json', 'b.json')]);
    expect(picture.facts).to.include({ kind: 'picture', width: 64 });
    expect(Buffer.from(picture.preview ?? []).toString('latin1', 8, 12)).to.equal('WEBP');
    expect(text.facts).to.include({ kind: 'text', values: 2 });
  });

  it('gives up on a reader that takes too long, at the cost of its own asset alone', async () => {
    pool = poolOf(1, 0.4);
    const [hung, next] = await Promise.all([read(1, 'json', 'slow.json'), read(2, 'json', 'b.json')]);
    expect(hung).to.deep.equal(failedOutcome.facts('reading took more than 0.4 seconds and was stopped'));
    expect(next.reason).to.match(/^null$|took more than/);
  });

  it('says what a reader could not make sense of', async () => {
    pool = poolOf(1);
    const outcome = await read(2, 'png', 'b.png');
    expect(outcome.facts).to.equal(null);
    expect(outcome.reason).to.match(/^the picture cannot be decoded: /);
  });

  it('says that the store has lost a content', async () => {
    const empty = mkdtempSync(join(tmpdir(), 'worvel-store-'));
    pool = new ReaderPool(new ReaderProcesses(empty, 0), { readers: 1 });
    expect((await read(0, 'png', 'a.png')).reason).to.match(/ENOENT|lost/);
    rmSync(empty, { recursive: true });
  });
});
