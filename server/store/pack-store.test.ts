import { expect } from 'chai';
import { existsSync, openSync, closeSync, readdirSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { text } from 'node:stream/consumers';
import { TestHouse } from '../../tests/support/worvel.ts';
import { migrate } from '../platform/database/migrate.ts';
import { bulkLoad } from '../platform/database/bulk-load.ts';
import { select } from '../platform/database/rows.ts';
import { NotFoundError } from '../platform/plain-error.ts';
import { openStore, type ContentStore } from './content-store.ts';
import { contentsTable } from './contents-table.ts';
import { hashOf } from './hash.ts';
import { streamLocal } from './local-content.ts';

/** The one door to contents: whatever they lie in. */
describe('The content store', () => {
  const house = new TestHouse();
  let store: ContentStore;
  const signal = new AbortController().signal;
  before(async () => {
    await house.open();
    await migrate(house.pool);
  });
  beforeEach(() => (store = openStore(house.pool, house.folder.store)));
  afterEach(() => store.close());
  after(() => house.close());

  const content = (words: string): { hash: Buffer; bytes: Buffer } => {
    const bytes = Buffer.from(words);
    return { hash: hashOf(bytes), bytes };
  };
  const hex = ({ hash }: { hash: Buffer }): string => hash.toString('hex');

  it('keeps each content once, and gives it back whole, in part and as a stream', async () => {
    const [a, b, empty] = [content('reed and water'), content('lantern'), content('')];
    await store.putMany([a, b, a, empty]);
    await store.putMany([b]);
    expect(await select(house.pool, 'SELECT hash FROM contents')).to.have.length(3);
    expect((await store.read(hex(a))).toString()).to.equal('reed and water');
    const local = await store.ensureLocal([hex(a), hex(b), hex(empty), '00'.repeat(32)]);
    expect([...local.keys()].sort()).to.deep.equal([a, b, empty].map(hex).sort());
    expect(await text(streamLocal(await store.getLocal(hex(a)), 5, 7))).to.equal('and');
    expect(await text(streamLocal(await store.getLocal(hex(empty))))).to.equal('');
    let refused: unknown;
    await store.read('11'.repeat(32)).catch((error: unknown) => (refused = error));
    expect(refused).to.be.instanceOf(NotFoundError);
  });

  it('takes what several put at the same time', async () => {
    const many = Array.from({ length: 40 }, (_, index) => content(`at once ${index}`));
    await Promise.all(many.map((one, index) => store.putMany([one, many[(index + 1) % many.length] ?? one])));
    for (const one of many) expect((await store.read(hex(one))).equals(one.bytes)).to.equal(true);
    const packs = await select<{ sealed: number }>(house.pool, 'SELECT sealed FROM packs WHERE sealed = 0');
    expect(packs).to.have.length(1);
  });

  it('takes a large file over, and frees it when it is deleted', async () => {
    const large = content('large'.repeat(1000));
    const path = house.path('large.tmp');
    writeFileSync(path, large.bytes);
    const writer = store.openWriter();
    writer.keepFile(path, large.hash);
    await bulkLoad(
      house.pool,
      contentsTable,
      await writer.sync([{ hash: large.hash, size: large.bytes.length }], 0),
    );
    await writer.seal();
    expect(existsSync(path)).to.equal(false);
    const { file } = await store.getLocal(hex(large));
    expect((await store.read(hex(large))).equals(large.bytes)).to.equal(true);
    expect(await store.delete([large.hash])).to.equal(5000);
    expect(existsSync(file)).to.equal(false);
    expect(await store.delete([])).to.equal(0);
  });

  it('puts a large content into a file of its own, once, and leaves nothing beside it', async () => {
    const bytes = Buffer.alloc(5 * 1024 * 1024, 'a large picture');
    const large = { hash: hashOf(bytes), bytes };
    await Promise.all([store.putMany([large, content('small beside it')]), store.putMany([large])]);
    const { file, offset } = await store.getLocal(hex(large));
    expect([offset, file.endsWith(hex(large))]).to.deep.equal([0, true]);
    expect((await store.read(hex(large))).equals(bytes)).to.equal(true);
    expect((await store.read(hex(content('small beside it')))).toString()).to.equal('small beside it');
    expect(readdirSync(join(house.folder.store, 'temporary'))).to.deep.equal([]);
    expect(await store.strays()).to.deep.equal({ count: 0, bytes: 0 });
  });

  it('writes a pack anew when a good part of it is dead, and loses nothing that lives', async () => {
    const other = openStore(house.pool, house.folder.store);
    const filler = content('f'.repeat(100_000));
    const living = content('lives');
    await other.putMany([filler, living]);
    await other.close();
    const before = await store.getLocal(hex(living));
    await store.delete([filler.hash]);
    expect(await store.tidy(signal)).to.be.greaterThan(90_000);
    const after = await store.getLocal(hex(living));
    expect(after.file).not.to.equal(before.file);
    expect(existsSync(before.file)).to.equal(false);
    expect((await store.read(hex(living))).toString()).to.equal('lives');
  });

  it('finds what is broken, and what belongs to nothing', async () => {
    const one = content('about to be broken');
    await store.putMany([one]);
    expect(await store.check(signal, () => undefined)).to.deep.equal([]);
    const { file, offset } = await store.getLocal(hex(one));
    const descriptor = openSync(file, 'r+');
    writeSync(descriptor, 'BROKEN', offset);
    closeSync(descriptor);
    let bytes = 0;
    const broken = await store.check(signal, (size) => (bytes += size));
    expect(broken.map(({ hash, reason }) => [hash.toString('hex'), reason])).to.deep.equal([
      [hex(one), 'its bytes are not those that were stored'],
    ]);
    expect(bytes).to.be.greaterThan(one.bytes.length);
    expect(await store.strays()).to.deep.equal({ count: 0, bytes: 0 });
    writeFileSync(file.replace(/\d+\.pack$/, '99999999.pack'), 'nobody knows me');
    expect(await store.strays()).to.deep.equal({ count: 1, bytes: 15 });
    const stopped = AbortSignal.abort(new Error('stopped'));
    let message = '';
    await store.check(stopped, () => undefined).catch((error: unknown) => (message = String(error)));
    expect(message).to.include('stopped');
  });

  it('knows what was made of a content by the same means, and not by others', async () => {
    const source = content('a drawing');
    await store.putMany([source]);
    const made = { source: hex(source), operation: 'show', parameters: '{"level":0}', version: 3 };
    expect(await store.getDerivative(made)).to.equal(null);
    await store.putDerivative(made, Buffer.from('as a picture'));
    const kept = await store.getDerivative(made);
    expect(kept && (await store.read(kept.hash)).toString()).to.equal('as a picture');
    for (const other of [
      { ...made, operation: 'draw' },
      { ...made, parameters: '{"level":1}' },
      { ...made, version: 4 },
      { ...made, source: '22'.repeat(32) },
    ])
      expect(await store.getDerivative(other)).to.equal(null);
    // A newer program’s takes the place of an older one’s.
    await store.putDerivative({ ...made, version: 4 }, Buffer.from('better'));
    expect(await store.getDerivative(made)).to.equal(null);
    // Whose bytes are lost is made again.
    const better = await store.getDerivative({ ...made, version: 4 });
    await store.delete([Buffer.from(better?.hash ?? '', 'hex')]);
    expect(await store.getDerivative({ ...made, version: 4 })).to.equal(null);
  });
});
