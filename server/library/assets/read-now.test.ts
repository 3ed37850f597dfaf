import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { findBuild, listProblems, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { OnDemandReaders } from '../../decode/on-demand.ts';
import { openStore } from '../../store/content-store.ts';
import { findAsset } from './assets.ts';
import { ReadNow } from './read-now.ts';

describe('What somebody looks at before it was read', () => {
  const house = new TestHouse();
  const readers = new OnDemandReaders();
  let [build]: PlacedBuild[] = [];
  let reads = 0;
  let readNow: ReadNow;
  const findFile = async (): Promise<null> => null;
  const look = async (path: string) => findAsset(house.pool, build as PlacedBuild, path, findFile);

  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    writeFileSync(house.path('game', 'values.json'), '{"speed": 3, "name": "gull"}');
    writeFileSync(house.path('game', 'broken.png'), Buffer.from('89504e470d0a1a0a00000000', 'hex'));
    writeFileSync(house.path('game', 'raw.bin'), Buffer.from([0, 1, 2]));
    await house.index(house.path('game'), 'Looked at', '1', '--arrive');
    build = await findBuild(house.pool, 1, '1');
    const counting = {
      run: (...args: Parameters<typeof readers.facts.run>) => {
        reads++;
        return readers.facts.run(...args);
      },
    } as typeof readers.facts;
    readNow = new ReadNow({
      folder: { root: '' },
      pool: house.pool,
      store: openStore(house.pool, house.folder.store),
      readers: { facts: counting },
    });
  });
  after(async () => {
    readers.close();
    await house.close();
  });

  it('is read at once, and once, however many look', async () => {
    expect(await look('values.json')).to.include({ isUnread: true, facts: null });
    await Promise.all([1, 2, 3].map(() => readNow.ensure(build as PlacedBuild, 'values.json', findFile)));
    // Whoever waits for longer than is bearable goes on without.
    for (let wait = 0; wait < 20 && (await look('values.json')).isUnread; wait++)
      await readNow.ensure(build as PlacedBuild, 'values.json', findFile);
    const asset = await look('values.json');
    expect(asset.isUnread).to.equal(false);
    expect(asset.facts).to.include({ kind: 'text', values: 2 });
    expect(reads).to.equal(1);
    await readNow.ensure(build as PlacedBuild, 'values.json', findFile);
    expect(reads).to.equal(1);
  });

  it('is listed among the problems of the build where no reader makes sense of it', async () => {
    for (let wait = 0; wait < 20 && (await look('broken.png')).isUnread; wait++)
      await readNow.ensure(build as PlacedBuild, 'broken.png', findFile);
    expect(await look('broken.png')).to.include({ isUnread: false, facts: null });
    const problems = await listProblems(house.pool, (build as PlacedBuild).id);
    expect(problems.map(({ path }) => path)).to.deep.equal(['broken.png']);
  });

  it('is left alone where there is nothing to read', async () => {
    const before = reads;
    await readNow.ensure(build as PlacedBuild, 'raw.bin', findFile);
    await readNow.ensure(build as PlacedBuild, 'nowhere.json', findFile);
    expect(reads).to.equal(before);
    expect((await look('raw.bin')).isUnread).to.equal(false);
  });
});
