import { expect } from 'chai';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { failureOf } from '../../../tests/support/failure.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { migrate } from '../../platform/database/migrate.ts';
import { ConflictError, NotFoundError, PlainError } from '../../platform/plain-error.ts';
import { beginUpload, findUpload, finishUpload, listUploads, removeUpload, takeChunk } from './uploads.ts';

/** Files that come from a browser, in chunks that may come twice, late or damaged. */
describe('Uploads', () => {
  const house = new TestHouse();
  const folder = (): string => house.path('uploads');
  before(async () => {
    await house.open();
    await migrate(house.pool);
  });
  after(() => house.close());

  const begin = (files: Record<string, number>, name = 'game'): Promise<number> =>
    beginUpload(house.pool, {
      name,
      files: Object.entries(files).map(([path, size]) => ({ path, size })),
    });
  const send = (
    id: number,
    number: number,
    offset: number,
    words: string,
    sha256 = createHash('sha256').update(words).digest('hex'),
  ): Promise<number> =>
    takeChunk(house.pool, folder(), { id, number, offset, sha256 }, new TextEncoder().encode(words));

  it('are put together in their folders; one file alone is a source by itself', async () => {
    const id = await begin({ 'data/a.txt': 9, 'b.txt': 0 });
    expect(await send(id, 0, 0, 'reed ')).to.equal(5);
    expect(await send(id, 0, 5, 'bell')).to.equal(9);
    const done = await finishUpload(house.pool, folder(), id);
    expect(done.isFinished).to.equal(true);
    expect(readFileSync(`${done.source ?? ''}/data/a.txt`, 'utf8')).to.equal('reed bell');
    expect(readFileSync(`${done.source ?? ''}/b.txt`, 'utf8')).to.equal('');
    const alone = await begin({ 'game.zip': 3 });
    await send(alone, 0, 0, 'zip');
    const { source } = await finishUpload(house.pool, folder(), alone);
    expect(readFileSync(source ?? '', 'utf8')).to.equal('zip');
  });

  it('go on where they were: the same files are the same upload until it is finished', async () => {
    const id = await begin({ 'a.txt': 8 }, 'resumed');
    await send(id, 0, 0, 'half');
    expect(await begin({ 'a.txt': 8 }, 'resumed')).to.equal(id);
    expect((await findUpload(house.pool, folder(), id)).files).to.deep.equal([
      { path: 'a.txt', size: 8, received: 4 },
    ]);
    expect(await begin({ 'a.txt': 9 }, 'resumed')).not.to.equal(id);
    await send(id, 0, 4, 'half');
    await finishUpload(house.pool, folder(), id);
    expect(await begin({ 'a.txt': 8 }, 'resumed')).not.to.equal(id);
  });

  it('take a chunk that comes again, and refuse one that is damaged, too early or too long', async () => {
    const id = await begin({ 'a.txt': 8 }, 'chunks');
    await send(id, 0, 0, 'half');
    expect(await send(id, 0, 0, 'half')).to.equal(4);
    const damaged = await failureOf(send(id, 0, 4, 'half', 'f'.repeat(64)));
    expect(damaged).to.be.instanceOf(PlainError);
    expect(damaged.message).to.include('damaged on its way');
    const early = await failureOf(send(id, 0, 6, 'x'));
    expect(early).to.be.instanceOf(ConflictError);
    expect(early.message).to.equal('The next chunk of a.txt begins at byte 4, and not at 6.');
    expect((await failureOf(send(id, 0, 4, 'longer than said'))).message).to.include(
      'larger than it was said',
    );
    expect(await failureOf(send(id, 7, 0, 'x'))).to.be.instanceOf(NotFoundError);
    expect((await findUpload(house.pool, folder(), id)).files[0]?.received).to.equal(4);
  });

  it('take the same chunk from two at once as one', async () => {
    const id = await begin({ 'a.txt': 4 }, 'twice');
    expect(await Promise.all(Array.from({ length: 6 }, () => send(id, 0, 0, 'reed')))).to.deep.equal(
      Array.from({ length: 6 }, () => 4),
    );
    const { source } = await finishUpload(house.pool, folder(), id);
    expect(readFileSync(source ?? '', 'utf8')).to.equal('reed');
  });

  it('are not finished while something is missing, and cut off what a crash left behind', async () => {
    const id = await begin({ 'a.txt': 4, 'b.txt': 4 }, 'cut');
    await send(id, 0, 0, 'reed');
    expect((await failureOf(finishUpload(house.pool, folder(), id))).message).to.equal(
      'Of b.txt only 0 of 4 bytes have come.',
    );
    await send(id, 1, 0, 'bell');
    // The machine went down after a chunk was written and before that was written down.
    writeFileSync(`${folder()}/upload-${id}/b.txt`, 'bell and what came after it');
    const { source } = await finishUpload(house.pool, folder(), id);
    expect(readFileSync(`${source ?? ''}/b.txt`, 'utf8')).to.equal('bell');
  });

  it('refuse names that lead out, collide, or are too long', async () => {
    const refused: [Record<string, number>, RegExp][] = [
      [{ '../evil': 1 }, /The file \.\.\/evil was refused/],
      [{ '/etc/passwd': 1 }, /was refused/],
      [{ ['x'.repeat(256)]: 1 }, /its name is too long for a file/],
      [
        { [Array.from({ length: 400 }, () => 'ten-letter').join('/')]: 1 },
        /^The file ten-letter.* was refused: /,
      ],
      [{ a: 1, 'a/b': 1 }, /cannot be uploaded together/],
    ];
    for (const [files, message] of refused) {
      const error = await failureOf(begin(files, 'refused'));
      expect(error).to.be.instanceOf(PlainError);
      expect(error.message).to.match(message);
    }
    expect((await listUploads(house.pool)).map(({ name }) => name)).not.to.include('refused');
  });

  it('are listed with how much has come, and go away with their files', async () => {
    const id = await begin({ 'a.txt': 4, 'b.txt': 6 }, 'listed');
    await send(id, 1, 0, 'bell');
    const [newest] = await listUploads(house.pool);
    expect(newest).to.deep.equal({ id, name: 'listed', isFinished: false, size: 10, received: 4 });
    expect(existsSync(`${folder()}/upload-${id}`)).to.equal(true);
    await removeUpload(house.pool, folder(), id);
    expect(existsSync(`${folder()}/upload-${id}`)).to.equal(false);
    expect(await failureOf(findUpload(house.pool, folder(), id))).to.be.instanceOf(NotFoundError);
    expect(await failureOf(removeUpload(house.pool, folder(), id))).to.be.instanceOf(NotFoundError);
  });
});
