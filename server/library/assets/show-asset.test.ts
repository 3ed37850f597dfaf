import { expect } from 'chai';
import { TestHouse } from '../../../tests/support/worvel.ts';
import type { Shown } from '../../../core/kinds/show.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import { migrate } from '../../platform/database/migrate.ts';
import { openStore, type ContentStore } from '../../store/content-store.ts';
import { hashOf } from '../../store/hash.ts';
import { readLocal } from '../../store/local-content.ts';
import { showAsset } from './show-asset.ts';

/** What was shown once is there the next time, as long as all that it is made of is the same. */
describe('Showing an asset', () => {
  const house = new TestHouse();
  let store: ContentStore;
  const image = { level: 0, layer: 0, face: 0, slice: 0, frame: 0 };
  /** How often a reader was asked. */
  let made = 0;
  let files: Record<string, string> = {};
  before(async () => {
    await house.open();
    await migrate(house.pool);
    store = openStore(house.pool, house.folder.store);
  });
  after(async () => {
    await store.close();
    await house.close();
  });
  beforeEach(() => (made = 0));

  const put = async (words: string): Promise<string> => {
    const bytes = Buffer.from(words);
    await store.putMany([{ hash: hashOf(bytes), bytes }]);
    return hashOf(bytes).toString('hex');
  };
  /** Says what the content and the files that it names hold. */
  const show: OnDemandReaders['show'] = async ({ content }, { level }, resolve): Promise<Shown> => {
    made++;
    const words = (await readLocal(content)).toString();
    const named = await Promise.all(
      (words.match(/@\w+/g) ?? []).map(async (name) => {
        const found = await resolve(name.slice(1), 'new');
        return found ? (await readLocal(found)).toString() : 'missing';
      }),
    );
    return { mediaType: 'text/plain', bytes: Buffer.from([words, level, ...named].join('|')) };
  };
  const shown = async (hash: string, level = 0, path = 'a/thing.mtl'): Promise<string> => {
    const { mediaType, bytes } = await showAsset(
      {
        store,
        readers: { show },
        findFile: async (_from, name) => files[name] ?? null,
        describe: () => ({}),
      },
      { path, format: 'mtl', hash },
      { ...image, level },
    );
    expect(mediaType).to.equal('text/plain');
    return Buffer.from(bytes).toString();
  };

  it('asks a reader once, and again for another image or another extension', async () => {
    const hash = await put('alone');
    expect([await shown(hash), await shown(hash)]).to.deep.equal(['alone|0', 'alone|0']);
    expect(made).to.equal(1);
    expect(await shown(hash, 2)).to.equal('alone|2');
    await shown(hash, 0, 'b/other.txt');
    expect(made).to.equal(3);
    await shown(hash, 0, 'c/moved.mtl');
    expect(made).to.equal(3);
  });

  it('makes it again when a file that it names comes, changes or goes, and knows it when it is back', async () => {
    const hash = await put('wears @skin and @coat');
    files = { skin: await put('green') };
    expect(await shown(hash)).to.equal('wears @skin and @coat|0|green|missing');
    files = { ...files, coat: await put('red') };
    expect(await shown(hash)).to.equal('wears @skin and @coat|0|green|red');
    files = { ...files, skin: await put('blue') };
    expect(await shown(hash)).to.equal('wears @skin and @coat|0|blue|red');
    expect(made).to.equal(3);
    files = { ...files, skin: await put('green') };
    expect(await shown(hash)).to.equal('wears @skin and @coat|0|green|red');
    files = {};
    expect(await shown(hash)).to.equal('wears @skin and @coat|0|missing|missing');
    expect(made).to.equal(4);
  });

  it('keeps nothing of what cannot be shown', async () => {
    const hash = await put('broken');
    const services = {
      store,
      findFile: async () => null,
      describe: () => ({}),
      readers: {
        show: async (): Promise<Shown> => {
          made++;
          throw new Error('it is broken');
        },
      },
    };
    for (let round = 0; round < 2; round++) {
      let reason = '';
      await showAsset(services, { path: 'x.mtl', format: 'mtl', hash }, image).catch(
        (error: unknown) => (reason = String(error)),
      );
      expect(reason).to.include('it is broken');
    }
    expect(made).to.equal(2);
  });
});
