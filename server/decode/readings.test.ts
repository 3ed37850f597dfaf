import { expect } from 'chai';
import { readersVersion } from '../../core/kinds/read.ts';
import { TestHouse } from '../../tests/support/worvel.ts';
import { migrate } from '../platform/database/migrate.ts';
import { change, parseColumn, select } from '../platform/database/rows.ts';
import { hashOf } from '../store/hash.ts';
import { findReading, isSame, keepReadings, restoreReading, type Resources } from './readings.ts';

const hash = hashOf(Buffer.from('a model')).toString('hex');
const [red, blue] = ['red', 'blue'].map((words) => hashOf(Buffer.from(words)).toString('hex'));

/** What was read of a model depends on the files that it names: each time that these were other ones is kept. */
describe('Readings', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    await migrate(house.pool);
  });
  after(() => house.close());
  afterEach(async () => {
    for (const table of ['content_facts', 'readings']) await change(house.pool, `DELETE FROM ${table}`);
  });

  const keep = (triangles: number, resources: Resources, version = readersVersion): Promise<void> =>
    keepReadings(house.pool, [
      {
        values: [
          Buffer.from(hash, 'hex'),
          'obj',
          version,
          JSON.stringify({ triangles }),
          null,
          null,
          JSON.stringify(resources),
          null,
          null,
          null,
        ],
        resources,
      },
    ]);
  const newest = async (): Promise<unknown[]> =>
    (await select<{ facts: unknown }>(house.pool, 'SELECT facts FROM content_facts')).map(
      ({ facts }) => (parseColumn(facts) as { triangles: number }).triangles,
    );
  const there = (files: Record<string, string | undefined>) => (reference: string) =>
    Promise.resolve(files[reference] ?? null);
  const find = (files: Record<string, string | undefined>): Promise<Buffer | null> =>
    findReading(house.pool, hash, 'obj', there(files));

  it('are found again with the files that they were read with, and with no others', async () => {
    await keep(1, [['gru.mtl', red ?? '']]);
    await keep(2, [['gru.mtl', blue ?? '']]);
    await keep(3, [['gru.mtl', null]]);
    expect(await newest()).to.deep.equal([3]);
    const [withRed, withBlue, without] = await Promise.all([
      find({ 'gru.mtl': red }),
      find({ 'gru.mtl': blue }),
      find({}),
    ]);
    expect(new Set([withRed, withBlue, without].map((key) => key?.toString('hex'))).size).to.equal(3);
    expect(await find({ 'gru.mtl': hash })).to.equal(null);
  });

  it('become the newest again without being read', async () => {
    await keep(1, [['gru.mtl', red ?? '']]);
    await keep(2, [['gru.mtl', blue ?? '']]);
    const key = await find({ 'gru.mtl': red });
    if (!key) throw new Error('it is not there');
    await restoreReading(house.pool, hash, 'obj', key);
    expect(await newest()).to.deep.equal([1]);
    expect(await find({ 'gru.mtl': blue })).not.to.equal(null);
  });

  it('of what names nothing are kept once', async () => {
    await keep(1, []);
    await keep(2, []);
    expect(await newest()).to.deep.equal([2]);
    expect(await select(house.pool, 'SELECT hash FROM readings')).to.deep.equal([]);
    expect(await find({})).to.equal(null);
  });

  it('of other readers, formats and contents do not count', async () => {
    await keep(1, [['gru.mtl', red ?? '']], readersVersion - 1);
    expect(await find({ 'gru.mtl': red })).to.equal(null);
    await keep(1, [['gru.mtl', red ?? '']]);
    expect(await findReading(house.pool, hash, 'gltf', there({ 'gru.mtl': red }))).to.equal(null);
    expect(await findReading(house.pool, red ?? '', 'obj', there({ 'gru.mtl': red }))).to.equal(null);
  });

  it('count as the same only where every file is what it was', async () => {
    const resources: Resources = [
      ['a', red ?? ''],
      ['b', null],
    ];
    expect(await isSame(resources, there({ a: red }))).to.equal(true);
    expect(await isSame(resources, there({ a: red, b: blue }))).to.equal(false);
    expect(await isSame(resources, there({}))).to.equal(false);
    expect(await isSame([], there({}))).to.equal(true);
  });
});
