import { expect } from 'chai';
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Status } from '../../../contract/kinds.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { findBuild, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { findBetween, type Findings } from './differences.ts';

const labels = ['1', '2', '3', '4', '5'];

/** What differs between builds, held against both of them read whole. */
describe('findBetween', () => {
  const house = new TestHouse();
  /** What each build has, by path: read from the folder by the test itself. */
  const contents = new Map<string, Map<string, string>>();
  const builds = new Map<string, PlacedBuild>();
  const game = (...parts: string[]): string => house.path('game', ...parts);

  /** Changes the folder as an update would: the same way at every run. */
  let seed = 11;
  const random = (below: number): number => (seed = (seed * 1103515245 + 12345) % 2147483648) % below;
  const put = (path: string, words: string): void => {
    mkdirSync(dirname(game(path)), { recursive: true });
    writeFileSync(game(path), words);
  };
  const files = (): Map<string, string> =>
    new Map(
      readdirSync(game(), { recursive: true, withFileTypes: true })
        .filter((item) => item.isFile())
        .map((item) => {
          const path = join(item.parentPath, item.name);
          return [path.slice(game().length + 1), readFileSync(path, 'utf8')];
        }),
    );
  const update = (): void => {
    for (const path of files().keys()) {
      const chance = random(10);
      if (chance === 0) rmSync(game(path));
      else if (chance === 1) put(path, `content ${random(1000)}`);
      else if (chance === 2) {
        const target = `moved/${random(4)}/${path.replaceAll('/', '-')}`;
        mkdirSync(dirname(game(target)), { recursive: true });
        renameSync(game(path), game(target));
      } else if (chance === 3) put(`copies/${random(50)}.dat`, readFileSync(game(path), 'utf8'));
    }
    for (let at = 0; at < 6; at++) put(`new/${random(100)}.dat`, `content ${random(60)}`);
  };

  before(async () => {
    await house.open();
    // A second folder beside the first: one alone would be the content root.
    put('title.txt', 'Differing');
    for (let at = 0; at < 60; at++) put(`first/${at % 5}/${at}.dat`, `content ${at % 40}`);
    for (const label of labels) {
      if (label !== '1') update();
      contents.set(label, files());
      await house.index(game(), 'Differing', label);
      const build = await findBuild(house.pool, 1, label);
      builds.set(label, build);
    }
  });
  after(() => house.close());

  const between = async (from: string, to: string): Promise<Findings> => {
    const [old, now] = [builds.get(from), builds.get(to)];
    if (!old || !now) throw new Error('no such build');
    return findBetween(house.pool, old, now);
  };
  const whole = (label: string): Map<string, string> => contents.get(label) ?? new Map<string, string>();

  for (const from of labels)
    for (const to of labels)
      it(`from ${from} to ${to} makes of the one build the other, path by path`, async () => {
        const { findings, summary } = await between(from, to);
        const [old, now] = [whole(from), whole(to)];
        // Applied to the old build, the findings give the new one: nothing is missing, and nothing is too much.
        const made = new Map(old);
        for (const { status, oldPath, path } of findings)
          if (status === 'removed') made.delete(path);
          else if (status === 'moved' && oldPath !== null) made.delete(oldPath);
        for (const { status, path } of findings)
          if (status !== 'removed') made.set(path, now.get(path) ?? '');
        expect([...made].sort()).to.deep.equal([...now].sort());
        for (const { status, path, oldPath } of findings) {
          if (status === 'changed') expect(now.get(path), path).not.to.equal(old.get(path));
          if (status === 'added') expect(old.has(path), path).to.equal(false);
          if (status === 'removed') expect(now.has(path), path).to.equal(false);
          // What moved or was copied is the same to the byte, from where it says.
          if (status === 'moved' || status === 'copied')
            expect(old.get(oldPath ?? ''), path).to.equal(now.get(path));
          if (status === 'moved') expect(now.has(oldPath ?? ''), path).to.equal(false);
          if (status === 'copied') expect(now.has(oldPath ?? ''), path).to.equal(true);
          // What has the content of something that is gone did not come from nowhere.
          if (status === 'added')
            expect(
              findings.some((other) => other.status === 'removed' && old.get(other.path) === now.get(path)),
              path,
            ).to.equal(false);
        }
        const untouched = [...now].filter(([path, words]) => old.get(path) === words).length;
        expect(summary.unchanged).to.equal(untouched);
        const counted = (status: Status): number => findings.filter((one) => one.status === status).length;
        for (const status of ['added', 'removed', 'changed', 'moved', 'copied'] as const)
          expect(summary[status], status).to.equal(counted(status));
      });

  it('has as many gone one way as new the other', async () => {
    for (const [from, to] of [
      ['1', '5'],
      ['2', '4'],
    ] as const) {
      const [there, back] = [await between(from, to), await between(to, from)];
      const { changed, moved } = there.summary;
      expect([back.summary.changed, back.summary.moved]).to.deep.equal([changed, moved]);
      expect(back.summary.removed).to.equal(there.summary.added + there.summary.copied);
    }
  });
});
