import { expect } from 'chai';
import { existsSync, mkdirSync, readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { TestObjectStore } from '../../tests/support/object-store.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { bulkLoad } from '../platform/database/bulk-load.ts';
import { migrate } from '../platform/database/migrate.ts';
import { change, select } from '../platform/database/rows.ts';
import { PlainError } from '../platform/plain-error.ts';
import { openStore, type ContentStore } from './content-store.ts';
import { contentsTable } from './contents-table.ts';
import { hashOf } from './hash.ts';
import { LocalCache } from './local-cache.ts';
import { parseS3Address, s3Options, S3Files } from './s3-files.ts';

/** Contents in an object store, as two machines see them that share nothing else but the database. */
describe('The content store in an object store', () => {
  const house = new TestHouse();
  const objects = new TestObjectStore();
  const signal = new AbortController().signal;
  const folderOf = (machine: string): string => house.path(machine);
  const open = (machine: string): ContentStore =>
    openStore(house.pool, folderOf(machine), objects.environment);
  let [here, there]: ContentStore[] = [];
  const stores = (): [ContentStore, ContentStore] => [here as ContentStore, there as ContentStore];
  before(async () => {
    await house.open();
    await migrate(house.pool);
    await objects.open('mossline');
    [here, there] = [open('here'), open('there')];
  });
  after(async () => {
    await Promise.all(stores().map((store) => store.close()));
    await objects.close();
    await house.close();
  });

  const content = (words: string): { hash: Buffer; bytes: Buffer } => {
    const bytes = Buffer.from(words);
    return { hash: hashOf(bytes), bytes };
  };
  const hex = ({ hash }: { hash: Buffer }): string => hash.toString('hex');
  const names = async (): Promise<string[]> => {
    const files = new S3Files(parseS3Address(objects.environment.WORVEL_STORE ?? ''), objects.environment);
    const found: string[] = [];
    for await (const { name } of files.list('')) found.push(name);
    return found;
  };

  it('is read on another machine as soon as it is told of', async () => {
    const [one, two] = stores();
    const many = Array.from({ length: 6 }, (_, index) => content(`lantern ${index}`));
    await one.putMany([...many, content('')]);
    for (const each of many) expect((await two.read(hex(each))).equals(each.bytes)).to.equal(true);
    expect((await two.read(hex(content('')))).length).to.equal(0);
    expect([...(await two.ensureLocal([hex(content('nobody has it'))]))]).to.deep.equal([]);
  });

  it('fetches a part of a pack where little is wanted, and all of it where much is', async () => {
    const [one] = stores();
    const many = Array.from({ length: 6 }, (_, index) => content(`reed ${index}`));
    await one.putMany(many);
    const other = open('third');
    await other.getLocal(hex(many[0] ?? content('')));
    expect(existsSync(join(folderOf('third'), 'packs'))).to.equal(false);
    await other.ensureLocal(many.map(hex));
    expect(readdirSync(join(folderOf('third'), 'packs'))).to.have.length(1);
    expect((await other.read(hex(many[5] ?? content('')))).toString()).to.equal('reed 5');
    await other.close();
  });

  it('takes what a writer brings in, large contents too', async () => {
    const [one, two] = stores();
    const [small, large] = [content('small of a build'), content('large'.repeat(2000))];
    const writer = one.openWriter();
    const path = house.path('large.tmp');
    writeFileSync(path, large.bytes);
    writer.keepFile(path, large.hash);
    const rows = [
      ...(await writer.append([small], 0)),
      ...(await writer.sync([{ hash: large.hash, size: large.bytes.length }], 0)),
    ];
    await bulkLoad(house.pool, contentsTable, rows);
    // The machine that wrote them is gone before it came to the end.
    rmSync(folderOf('here'), { recursive: true, force: true });
    expect((await two.read(hex(small))).toString()).to.equal('small of a build');
    expect((await two.read(hex(large))).equals(large.bytes)).to.equal(true);
    await writer.seal();
  });

  it('frees what nothing names, and writes packs anew that are dead for a good part', async () => {
    const [one, two] = stores();
    const [filler, living, large] = [
      content('f'.repeat(50_000)),
      content('lives'),
      content('x'.repeat(5_000_000)),
    ];
    await one.putMany([filler, living]);
    await two.putMany([large]);
    await two.delete([filler.hash, large.hash]);
    expect((await names()).some((name) => name.endsWith(hex(large)))).to.equal(false);
    const before = (await names()).filter((name) => name.startsWith('packs/')).length;
    expect(await one.tidy(signal)).to.be.greaterThan(40_000);
    expect((await names()).filter((name) => name.startsWith('packs/'))).to.have.length(before);
    rmSync(folderOf('there'), { recursive: true, force: true });
    expect((await two.read(hex(living))).toString()).to.equal('lives');
    expect(await one.strays()).to.deep.equal({ count: 0, bytes: 0 });
  });

  it('finds what is broken or lost there, whatever copies say, and strays', async () => {
    const [one, two] = stores();
    const [whole, lost] = [content('whole'), content('about to be lost')];
    await one.putMany([whole]);
    await one.putMany([lost]);
    expect(await two.check(signal, () => undefined)).to.deep.equal([]);
    const files = new S3Files(parseS3Address(objects.environment.WORVEL_STORE ?? ''), objects.environment);
    const [row] = await select<{ packId: number }>(
      house.pool,
      'SELECT pack_id AS packId FROM contents WHERE hash = ?',
      [lost.hash],
    );
    const name = `packs/${String(row?.packId).padStart(8, '0')}.pack`;
    const other = house.path('other.pack');
    writeFileSync(other, Buffer.alloc(200));
    await files.put(name, other);
    expect((await two.check(signal, () => undefined)).map((broken) => hex(broken))).to.deep.equal([
      hex(lost),
    ]);
    await files.remove(name);
    const [gone] = await two.check(signal, () => undefined);
    expect(gone?.reason).to.equal('the object store has no file that holds it');
    await two.forget([lost.hash]);
    await change(house.pool, 'DELETE FROM packs WHERE id = ?', [row?.packId ?? 0]);
    await files.put('packs/99999999.pack', other);
    expect(await one.strays()).to.deep.equal({ count: 1, bytes: 200 });
  });

  it('says what is wrong with the object store, and loses nothing', async () => {
    const away = openStore(house.pool, folderOf('away'), {
      ...objects.environment,
      WORVEL_S3_ENDPOINT: 'http://127.0.0.1:9',
    });
    const one = content('never there');
    let message = '';
    await away.putMany([one]).catch((error: unknown) => (message = String(error)));
    expect(message).to.match(/The object store games did not do its part with packs\/.*ECONNREFUSED/);
    expect(await select(house.pool, 'SELECT hash FROM contents WHERE hash = ?', [one.hash])).to.have.length(
      0,
    );
    await stores()[0].putMany([one]);
    expect((await stores()[1].read(hex(one))).toString()).to.equal('never there');
  });
});

describe('The address of an object store', () => {
  it('is a bucket with what all names begin with, and nothing secret', () => {
    expect(parseS3Address('s3://games')).to.deep.equal({ bucket: 'games', prefix: '' });
    expect(parseS3Address('s3://games/mossline/ferry/')).to.deep.equal({
      bucket: 'games',
      prefix: 'mossline/ferry/',
    });
    for (const wrong of ['s3://', 's3://name:secret@games', 'https://games', 's3://Games', 's3://g/a?b'])
      expect(() => parseS3Address(wrong), wrong).to.throw(PlainError);
  });

  it('needs an endpoint and keys from the environment', () => {
    const keys = { AWS_ACCESS_KEY_ID: 'a', AWS_SECRET_ACCESS_KEY: 'b' };
    expect(s3Options({ ...keys, WORVEL_S3_ENDPOINT: 'https://store.example' })).to.include({
      endPoint: 'store.example',
      port: 443,
      useSSL: true,
    });
    for (const endpoint of [undefined, 'store.example', 'ftp://store.example', 'http://a:b@store.example'])
      expect(() => s3Options({ ...keys, WORVEL_S3_ENDPOINT: endpoint }), String(endpoint)).to.throw(
        PlainError,
      );
    expect(() => s3Options({ WORVEL_S3_ENDPOINT: 'http://store.example' })).to.throw(PlainError);
  });
});

describe('Copies of remote files', () => {
  const house = new TestHouse();
  after(() => rmSync(house.root, { recursive: true, force: true }));

  it('go once they are too many: those first that nobody used for the longest time, and none that was used of late', () => {
    const folder = house.path('copies');
    mkdirSync(folder);
    const put = (name: string, minutesAgo: number): string => {
      writeFileSync(join(folder, name), Buffer.alloc(1000));
      const used = new Date(Date.now() - minutesAgo * 60_000);
      utimesSync(join(folder, name), used, used);
      return join(folder, name);
    };
    const [oldest, older, fresh] = [put('a', 300), put('b', 200), put('c', 1)];
    const cache = new LocalCache([folder], 2500);
    expect(cache.trim()).to.equal(1000);
    expect([oldest, older, fresh].map((file) => existsSync(file))).to.deep.equal([false, true, true]);
    expect(cache.has(older)).to.equal(true);
    expect(cache.has(oldest)).to.equal(false);
    // Both were used a moment ago.
    expect(new LocalCache([folder], 0).trim()).to.equal(0);
    expect(new LocalCache([house.path('nowhere')], 0).trim()).to.equal(0);
  });
});
