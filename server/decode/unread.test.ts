import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { TestHouse } from '../../tests/support/worvel.ts';
import { findBuild, placedBefore, type PlacedBuild } from '../acquire/builds/builds.ts';
import { change } from '../platform/database/rows.ts';
import { countUnread, findUnread, groupsOf, type SpanGroup } from './unread.ts';

/** What of a build is left to be read, and in which order. */
describe('Contents that are not read yet', () => {
  const house = new TestHouse();
  const write = (files: Record<string, string>): void => {
    for (const [path, text] of Object.entries(files)) writeFileSync(house.path('game', path), text);
  };
  const pathsOf = async (group: SpanGroup): Promise<string[]> => {
    const paths: string[] = [];
    const { unread } = await countUnread(house.pool, group);
    for await (const items of findUnread(house.pool, group, unread))
      paths.push(...items.map(({ path }) => path));
    return paths.sort();
  };
  let [first, second]: PlacedBuild[] = [];

  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    write({ 'kept.json': '{"a":1}', 'copy.json': '{"a":1}', 'changed.json': '{"b":1}', 'raw.bin': '\0\x01' });
    await house.index(house.path('game'), 'Unread', '1', '--arrive');
    write({ 'changed.json': '{"b":2}', 'new.json': '{"c":3}' });
    await house.index(house.path('game'), 'Unread', '2', '--arrive');
    [first, second] = await Promise.all(['1', '2'].map((label) => findBuild(house.pool, 1, label)));
  });
  after(() => house.close());

  it('are first what is new or changed, then what that took the place of, then the rest', async () => {
    const groups = groupsOf(second as PlacedBuild, await placedBefore(house.pool, second as PlacedBuild));
    expect(await Promise.all(groups.map(pathsOf))).to.deep.equal([
      ['changed.json', 'new.json'],
      ['changed.json'],
      // What lies at two paths is read once.
      ['copy.json'],
    ]);
    // And counts as two files; what nobody can read does not count.
    const counts = await Promise.all(groups.map((group) => countUnread(house.pool, group)));
    expect(counts).to.deep.equal([
      { files: 2, unread: 2 },
      { files: 1, unread: 1 },
      { files: 2, unread: 2 },
    ]);
  });

  it('are all of the first build, which has none before it', async () => {
    const groups = groupsOf(first as PlacedBuild, await placedBefore(house.pool, first as PlacedBuild));
    expect(await Promise.all(groups.map(pathsOf))).to.deep.equal([['changed.json', 'copy.json']]);
  });

  it('are no rest where the build before was read to its end', async () => {
    const before = { ...(first as PlacedBuild), factsVersion: null };
    expect(groupsOf(second as PlacedBuild, before)).to.have.length(3);
    await house.index(house.path('game'), 'Unread', '3');
    const [third, fourth] = [await findBuild(house.pool, 1, '3'), { ...before, sequence: 4 }];
    expect(third.factsVersion).to.be.a('number');
    expect(groupsOf(fourth, third)).to.have.length(2);
  });

  it('are none after they were read, and all again for readers that have learned something', async () => {
    const groups = groupsOf(second as PlacedBuild, null);
    const counts = async (): Promise<unknown> =>
      Promise.all(groups.map((group) => countUnread(house.pool, group)));
    expect(await counts()).to.deep.equal([{ files: 2, unread: 0 }]);
    await change(house.pool, 'UPDATE content_facts SET readers_version = readers_version - 1');
    expect(await counts()).to.deep.equal([{ files: 2, unread: 2 }]);
  });
});
