import { expect } from 'chai';
import { SmallPictures } from './small-pictures.ts';

describe('Small pictures', () => {
  const none = {} as ConstructorParameters<typeof SmallPictures>[0];

  it('are read from the store once, however often they are asked for', async () => {
    const asked: string[] = [];
    const pictures = new SmallPictures(none, {
      read: (hash) => {
        asked.push(hash);
        return Promise.resolve(Buffer.from(hash));
      },
    });
    for (const hash of ['aa', 'bb', 'aa', 'aa'])
      expect((await pictures.read(hash)).toString()).to.equal(hash);
    expect(asked).to.deep.equal(['aa', 'bb']);
  });

  it('that the store has lost are asked for again, and those that are too many let go of', async () => {
    let reads = 0;
    const pictures = new SmallPictures(none, {
      read: () =>
        ++reads === 1 ? Promise.reject(new Error('lost')) : Promise.resolve(Buffer.alloc(40 * 1024 ** 2)),
    });
    expect(await pictures.read('aa').catch((error: Error) => error.message)).to.equal('lost');
    await pictures.read('aa');
    await pictures.read('bb');
    expect(reads).to.equal(3);
    // Two of them are more than is kept.
    await pictures.read('aa');
    expect(reads).to.equal(4);
  });
});
