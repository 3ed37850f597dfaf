import { expect } from 'chai';
import { sign } from '../../demo/pictures.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { hashOf } from '../store/hash.ts';
import { openStore } from '../store/content-store.ts';
import type { LocalContent } from '../store/local-content.ts';
import { failedOutcome } from './operations.ts';
import { ReaderPool } from './reader-pool.ts';
import { ReaderProcesses } from './reader-processes.ts';

/** Noise of 99 octaves, blurred: the renderer takes minutes over 250 bytes. */
const slowDrawing = `<svg xmlns="http://www.w3.org/2000/svg" width="4000" height="4000"><filter id="f" width="9" height="9">
<feTurbulence numOctaves="99" baseFrequency=".1"/><feGaussianBlur stdDeviation="99"/></filter>
<rect width="4000" height="4000" filter="url(#f)"/></svg>`;

/** A picture of one colour, 12,000 pixels a side. */
async function largePicture(): Promise<Buffer> {
  const { default: sharp } = await import('sharp');
  const create = { width: 12_000, height: 12_000, channels: 3, background: 'red' } as const;
  return sharp({ create }).png({ compressionLevel: 1 }).toBuffer();
}

describe('ReaderPool', () => {
  const house = new TestHouse();
  let stored: LocalContent[];
  let pool: ReaderPool;
  before(async () => {
    await house.open();
    const store = openStore(house.pool, house.folder.store);
    // A JSON of this depth takes a good while to count; a picture takes none.
    const slow = Buffer.from(`[${'[1],'.repeat(6_000_000)}1]`);
    const contents = [
      await sign('a', 64, [1, 2, 3], 'png'),
      slow,
      Buffer.from('{"a": 1, "b": 2}'),
      Buffer.from(slowDrawing),
      await largePicture(),
    ];
    const { migrate } = await import('../platform/database/migrate.ts');
    await migrate(house.pool);
    const hashed = contents.map((bytes) => ({ hash: hashOf(bytes), bytes }));
    await store.putMany(hashed);
    await store.close();
    stored = await Promise.all(hashed.map(({ hash }) => store.getLocal(hash.toString('hex'))));
  });
  after(() => house.close());
  afterEach(() => pool.close());

  const poolOf = (readers: number, seconds = 60): ReaderPool =>
    new ReaderPool(new ReaderProcesses(0), { readers, seconds });
  const read = (index: number, format: string, path: string) => {
    const content = stored[index];
    if (!content) throw new Error('no such content');
    return pool.run({ type: 'facts', content: { path, format, content } }, () => Promise.resolve(null));
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

  it('ends a reader in the middle of native code, within the time it has', async () => {
    pool = poolOf(1, 4);
    const beganMs = Date.now();
    const [drawn, next] = await Promise.all([read(3, 'svg', 'slow.svg'), read(2, 'json', 'b.json')]);
    expect(drawn.reason).to.equal('reading took more than 4 seconds and was stopped');
    expect(Date.now() - beganMs).to.be.below(20_000);
    expect(next.facts).to.include({ kind: 'text' });
  });

  it('ends a reader that takes too much memory, buffers and native code too', async () => {
    pool = new ReaderPool(new ReaderProcesses(0, 400 * 1024 ** 2), { readers: 1 });
    // 576 million bytes of pixels, of a small file.
    const [large, next] = await Promise.all([read(4, 'png', 'large.png'), read(2, 'json', 'b.json')]);
    expect(large.preview).to.equal(null);
    expect(large.reason).to.match(/memory|broke down|cannot be decoded/);
    expect(next.facts).to.include({ kind: 'text' });
  });

  it('stops within a second, whatever a reader is in the middle of', async () => {
    const stop = new AbortController();
    pool = new ReaderPool(new ReaderProcesses(0), { readers: 1, signal: stop.signal });
    const reading = read(3, 'svg', 'slow.svg').then(
      () => 'read',
      (reason: Error) => reason.message,
    );
    setTimeout(() => stop.abort(new Error('enough')), 700);
    const beganMs = Date.now();
    expect(await reading).to.equal('enough');
    expect(Date.now() - beganMs).to.be.below(1700);
    expect(await read(2, 'json', 'b.json').catch((reason: Error) => reason.message)).to.equal('enough');
  });

  it('hands no key or address of its environment to what decodes strangers’ files', async () => {
    const reader = new ReaderProcesses(0).take();
    const { readFileSync } = await import('node:fs');
    await new Promise((resolve) => setTimeout(resolve, 300));
    const names = readFileSync(`/proc/${reader.pid ?? 0}/environ`, 'latin1').split('\0');
    reader.kill();
    const own = names.map((variable) => variable.split('=')[0]);
    expect(own).to.include('PATH');
    expect(own.filter((name) => name?.startsWith('WORVEL'))).to.deep.equal([]);
  });

  it('says what a reader could not make sense of', async () => {
    pool = poolOf(1);
    const outcome = await read(2, 'png', 'b.png');
    expect(outcome.facts).to.equal(null);
    expect(outcome.reason).to.match(/^the picture cannot be decoded: /);
  });

  it('says that the store has lost a content', async () => {
    pool = poolOf(1);
    const [first] = stored;
    if (!first) throw new Error('nothing stored');
    const reading = (content: LocalContent) =>
      pool.run({ type: 'facts', content: { path: 'a.png', format: 'png', content } }, () =>
        Promise.resolve(null),
      );
    expect((await reading({ ...first, file: `${first.file}.gone` })).reason).to.include('ENOENT');
    expect((await reading({ ...first, offset: 2 ** 40 })).reason).to.include('has lost the end');
  });
});
