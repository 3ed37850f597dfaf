import { expect } from 'chai';
import { setTimeout as wait } from 'node:timers/promises';
import type { LocalContent } from '../../store/local-content.ts';
import { FilmSounds } from './film-sounds.ts';

const contentOf = (name: string): LocalContent => ({
  ...{ hash: name.padEnd(64, '0'), file: '/nowhere', offset: 0, size: 1 },
});

/** Sounds of three pieces, that say how many are made at the same time; one piece for each time that is let on. */
class Making {
  begun = 0;
  running = 0;
  most = 0;
  ended: string[] = [];
  private readonly waiting: (() => void)[] = [];

  readonly soundOf = async function* (
    this: Making,
    { hash }: LocalContent,
    _format: string,
    signal?: AbortSignal,
  ): AsyncGenerator<Buffer> {
    signal?.throwIfAborted();
    this.begun++;
    this.most = Math.max(this.most, ++this.running);
    try {
      for (const piece of ['one ', 'two ', 'three']) {
        await new Promise<void>((resolve, reject) => {
          this.waiting.push(resolve);
          signal?.addEventListener('abort', () => reject(new Error('stopped')));
        });
        yield Buffer.from(piece);
      }
    } finally {
      this.running--;
      this.ended.push(hash.slice(0, 1));
    }
  }.bind(this);

  async letOn(): Promise<void> {
    await wait(5);
    for (const go of this.waiting.splice(0)) go();
    await wait(5);
  }
}

const all = async (sound: AsyncGenerator<Buffer>): Promise<string> => {
  const pieces: Buffer[] = [];
  for await (const piece of sound) pieces.push(piece);
  return Buffer.concat(pieces).toString();
};

describe('Sounds of films', () => {
  it('are made two at a time, however many are asked for, each once for all that listen', async () => {
    const making = new Making();
    const sounds = new FilmSounds({ soundOf: making.soundOf });
    const heard = ['a', 'b', 'c', 'a', 'd', 'b'].map((name) => all(sounds.listen(contentOf(name), 'mp4')));
    for (let step = 0; step < 12; step++) await making.letOn();
    expect(await Promise.all(heard)).to.deep.equal(Array.from({ length: 6 }, () => 'one two three'));
    expect([making.begun, making.most]).to.deep.equal([4, 2]);
    // What was made is there at once.
    expect(await all(sounds.listen(contentOf('c'), 'mp4'))).to.equal('one two three');
    expect(making.begun).to.equal(4);
  });

  it('do not wait for whoever listens slowly', async () => {
    const making = new Making();
    const sounds = new FilmSounds({ atOnce: 1, soundOf: making.soundOf });
    const slow = sounds.listen(contentOf('a'), 'mp4');
    const first = slow.next();
    await making.letOn();
    const { value } = (await first) as IteratorYieldResult<Buffer>;
    expect(value.toString()).to.equal('one ');
    for (let step = 0; step < 3; step++) await making.letOn();
    expect([making.running, making.ended]).to.deep.equal([0, ['a']]);
    expect(await all(slow)).to.equal('two three');
  });

  it('are given up when nobody listens any more, at once, and made anew for the next', async () => {
    const making = new Making();
    const sounds = new FilmSounds({ atOnce: 1, soundOf: making.soundOf });
    const left = [new AbortController(), new AbortController()];
    const heard = left.map(({ signal }) =>
      all(sounds.listen(contentOf('a'), 'mp4', signal)).catch((error: Error) => error.name),
    );
    const waiting = new AbortController();
    const behind = all(sounds.listen(contentOf('b'), 'mp4', waiting.signal)).catch(() => 'left');
    await making.letOn();
    left[0]?.abort();
    await wait(5);
    expect(making.running, 'one still listens').to.equal(1);
    waiting.abort();
    left[1]?.abort();
    await wait(5);
    expect(making.running).to.equal(0);
    expect(await Promise.all([...heard, behind])).to.deep.equal(['AbortError', 'AbortError', 'left']);
    const again = all(sounds.listen(contentOf('a'), 'mp4'));
    for (let step = 0; step < 3; step++) await making.letOn();
    expect(await again).to.equal('one two three');
    // The one that waited in vain was never begun.
    expect(making.ended).to.deep.equal(['a', 'a']);
  });

  it('that cannot be made say why to all that listen, and are tried again by the next', async () => {
    let tries = 0;
    const sounds = new FilmSounds({
      soundOf: async function* () {
        tries++;
        yield Buffer.from('some');
        await wait(1);
        throw new Error('it is damaged');
      },
    });
    const reasons = [1, 2].map(() =>
      all(sounds.listen(contentOf('a'), 'mp4')).catch((error: Error) => error.message),
    );
    expect(await Promise.all(reasons)).to.deep.equal(['it is damaged', 'it is damaged']);
    expect(tries).to.equal(1);
    await all(sounds.listen(contentOf('a'), 'mp4')).catch(() => '');
    expect(tries).to.equal(2);
  });

  it('that are too long are not kept in memory', async () => {
    let given = 0;
    const sounds = new FilmSounds({
      soundOf: async function* () {
        for (;;) {
          given++;
          yield Buffer.alloc(1024 ** 2);
          await wait(0);
        }
      },
    });
    let message = '';
    try {
      for await (const piece of sounds.listen(contentOf('a'), 'mp4')) expect(piece.length).to.be.above(0);
    } catch (error) {
      message = error instanceof Error ? error.message : '';
    }
    expect(message).to.match(/longer than what is made here: 64 MiB/);
    expect(given).to.equal(65);
  });
});
