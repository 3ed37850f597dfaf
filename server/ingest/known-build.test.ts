import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { TestHouse } from '../../tests/support/worvel.ts';
import { role } from '../acquire/builds/spans.ts';
import { hashOf, pathDigest } from '../store/hash.ts';
import { findBase, type BaseBuild } from './base-build.ts';
import { KnownBuild, type PathState } from './known-build.ts';

/** What a new build is compared to while it comes in. */
describe('KnownBuild', () => {
  const house = new TestHouse();
  let base: BaseBuild;
  before(async () => {
    await house.open();
    mkdirSync(house.path('game', 'texts'), { recursive: true });
    writeFileSync(house.path('game', 'texts', 'a.txt'), 'one and two');
    writeFileSync(house.path('game', 'b.txt'), 'three');
    writeFileSync(house.path('game', 'empty.bin'), '');
    await house.index(house.path('game'), 'Known', '1');
    const found = await findBase(house.pool, 1);
    if (!found) throw new Error('no build came in');
    base = found;
  });
  after(() => house.close());

  const load = (isBase = true, isSameSource = false): Promise<KnownBuild> =>
    KnownBuild.load(house.pool, { channelId: 1, base, isBase, isSameSource, isSameChoice: true });
  const state = (path: string, words: string, more: Partial<PathState> = {}): PathState => ({
    role: role.file,
    format: 'plain',
    byExtension: true,
    size: Buffer.byteLength(words),
    hash: hashOf(Buffer.from(words)),
    target: null,
    packedHash: null,
    unit: pathDigest(path),
    ...more,
  });
  const paths = (digests: readonly Buffer[]): string[] =>
    ['texts/a.txt', 'b.txt', 'empty.bin'].filter((path) =>
      digests.some((digest) => digest.equals(pathDigest(path))),
    );

  it('knows what lies where, and which contents there are', async () => {
    const known = await load();
    expect(known.hasPath(pathDigest('texts/a.txt'))).to.equal(true);
    expect(known.hasPath(pathDigest('texts/A.txt'))).to.equal(false);
    expect(known.hasContent(hashOf(Buffer.from('three')))).to.equal(true);
    expect(known.hasContent(hashOf(Buffer.from('four')))).to.equal(false);
    expect(known.sizeAt(pathDigest('texts/a.txt'))).to.equal(11);
    expect(known.sizeAt(pathDigest('empty.bin'))).to.equal(0);
    expect(known.sizeAt(pathDigest('nowhere'))).to.equal(null);
  });

  it('recalls a content by its path and hash together, and by no one of them', async () => {
    const known = await load();
    const three = hashOf(Buffer.from('three'));
    expect(known.recallContent(pathDigest('b.txt'), three)).to.deep.include({ format: 'plain', hash: three });
    expect(known.recallContent(pathDigest('texts/a.txt'), three)).to.equal(null);
    expect(known.recallContent(pathDigest('b.txt'), hashOf(Buffer.from('3')))).to.equal(null);
  });

  it('needs no row for what is as it was; anything else about it is a change', async () => {
    const known = await load();
    const digest = pathDigest('b.txt');
    expect(known.meet(digest, state('b.txt', 'three'))).to.equal(true);
    const changes: Partial<PathState>[] = [
      { hash: hashOf(Buffer.from('eerht')) },
      { size: 6 },
      { role: role.link },
      { format: 'json' },
      { byExtension: false },
      { target: pathDigest('texts/a.txt') },
      { packedHash: hashOf(Buffer.from('packed')) },
      { unit: pathDigest('other.zip') },
    ];
    for (const change of changes)
      expect(
        known.meet(digest, state('b.txt', 'three', change)),
        `another ${Object.keys(change).join()}`,
      ).to.equal(false);
    expect(known.meet(pathDigest('new.txt'), state('new.txt', 'three'))).to.equal(false);
  });

  it('needs a row for everything where the new build does not follow this one', async () => {
    const known = await load(false);
    expect(known.meet(pathDigest('b.txt'), state('b.txt', 'three'))).to.equal(false);
    expect(known.countUnchanged()).to.deep.equal({ files: 0, containers: 0, bytes: 0 });
  });

  it('says what is gone, and adds up what is as it was', async () => {
    const known = await load();
    known.meet(pathDigest('b.txt'), state('b.txt', 'three'));
    known.meet(pathDigest('texts/a.txt'), state('texts/a.txt', 'another'));
    expect(paths(known.gone())).to.deep.equal(['empty.bin']);
    expect(known.countUnchanged()).to.deep.equal({ files: 1, containers: 0, bytes: 5 });
    expect(known.unchangedState(pathDigest('b.txt'))?.hash).to.deep.equal(hashOf(Buffer.from('three')));
    expect(known.unchangedState(pathDigest('texts/a.txt'))).to.equal(null);
  });

  it('takes a file that was passed over for met, with all that came out of it', async () => {
    const known = await load();
    known.skip(pathDigest('texts/a.txt'));
    expect(paths(known.gone())).to.deep.equal(['b.txt', 'empty.bin']);
    expect(known.unchangedState(pathDigest('texts/a.txt'))).to.deep.include({ size: 11, format: 'plain' });
  });

  it('is one for all threads that have its memory', async () => {
    const known = await load();
    const other = new KnownBuild(known.memory);
    other.meet(pathDigest('b.txt'), state('b.txt', 'three'));
    other.meetAgain(pathDigest('empty.bin'), false);
    expect(paths(known.gone())).to.deep.equal(['texts/a.txt']);
  });

  it('passes files over by their state on the disk only where the source is the same', async () => {
    const [other, same] = [await load(true, false), await load(true, true)];
    expect(other.isSameSource(pathDigest('b.txt'), 'ab'.repeat(16))).to.equal(false);
    expect(same.isSameSource(pathDigest('b.txt'), 'ab'.repeat(16))).to.equal(false);
    expect(same.isSameSource(pathDigest('nowhere'), 'ab'.repeat(16))).to.equal(false);
  });

  it('is empty before the first build', async () => {
    const known = await KnownBuild.load(house.pool, {
      channelId: 99,
      base: null,
      isBase: false,
      isSameSource: false,
      isSameChoice: false,
    });
    expect(known.gone()).to.deep.equal([]);
    expect(known.hasContent(hashOf(Buffer.from('three')))).to.equal(false);
    expect(known.meet(pathDigest('b.txt'), state('b.txt', 'three'))).to.equal(false);
  });
});
