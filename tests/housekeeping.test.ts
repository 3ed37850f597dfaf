import { expect } from 'chai';
import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';
import type { Sizes } from '../contract/housekeeping.ts';
import type { JobReport } from '../contract/work.ts';
import { seeded } from '../demo/seeded.ts';
import { select } from '../server/platform/database/rows.ts';
import { packFile } from '../server/store/layout.ts';
import { leavesOf, leavesOfFolder } from './support/leaves.ts';
import { TestHouse } from './support/worvel.ts';

/** Builds that come and go: what is left has to be as if the others had never been. */
describe('Housekeeping', () => {
  const house = new TestHouse();
  let url: string;
  before(async () => {
    await house.open();
    // What it has warm is warm for every command.
    url = await house.serve(house.port);
  });
  after(() => house.close());

  const random = seeded(11);
  const noise = (length: number): Buffer =>
    Buffer.from(Array.from({ length }, () => Math.floor(random() * 256)));
  /** Five builds of 30 files, of which some change, come and go. */
  const makeBuilds = (folder: string): string[] => {
    const files = new Map<string, Buffer>();
    for (let file = 0; file < 30; file++) files.set(`f${file}.bin`, noise(2000));
    const large = noise(5_000_000);
    return ['1', '2', '3', '4', '5'].map((label) => {
      for (let change = 0; change < 6; change++) files.set(`f${Math.floor(random() * 34)}.bin`, noise(2000));
      files.delete(`f${Math.floor(random() * 30)}.bin`);
      const source = house.path(folder, label);
      mkdirSync(source, { recursive: true });
      for (const [path, bytes] of files) writeFileSync(join(source, path), bytes);
      if (label === '2') writeFileSync(join(source, 'large.bin'), large);
      return label;
    });
  };
  const check = async (): Promise<JobReport & { code: number }> => {
    const { code, output } = await house.run('check', '--json');
    return { ...(JSON.parse(output) as JobReport), code };
  };
  const storeBytes = (): number =>
    readdirSync(house.folder.store, { withFileTypes: true, recursive: true }).reduce(
      (sum, item) => sum + (item.isFile() ? statSync(join(item.parentPath, item.name)).size : 0),
      0,
    );

  for (const [name, removed] of [
    ['the first', ['1']],
    ['two between', ['3', '2']],
    ['several, the newest too', ['4', '2', '5']],
  ] as const) {
    it(`removes ${name}: the rest is as if it had been indexed alone`, async () => {
      const title = `Without ${name}`;
      const alone = `Alone without ${name}`;
      const labels = makeBuilds(title);
      for (const label of labels) await house.index(house.path(title, label), title, label);
      const left = labels.filter((label) => !(removed as readonly string[]).includes(label));
      for (const label of removed) {
        const { code, errors } = await house.run('remove', '--title', title, '--build', label);
        expect(code, errors).to.equal(0);
      }
      for (const label of left) await house.index(house.path(title, label), alone, label);
      for (const label of left)
        expect(await leavesOf(house, title, label), label).to.deep.equal(await leavesOf(house, alone, label));
      for (const [index, label] of left.slice(1).entries()) {
        const from = left[index] ?? '';
        expect((await house.diff(title, from, label)).findings).to.deep.equal(
          (await house.diff(alone, from, label)).findings,
        );
      }
      // And the next build comes in as a difference to what is now the newest.
      await house.index(house.path(title, '1'), title, 'next');
      expect(await leavesOf(house, title, 'next')).to.deep.equal(leavesOfFolder(house.path(title, '1')));
      expect((await house.run('remove', '--title', alone, '--build', left[0] ?? '')).code).to.equal(0);
      expect((await check()).lines).to.deep.equal([]);
    });
  }

  it('frees what no other build holds, and keeps the rest', async () => {
    const title = 'Freed';
    makeBuilds(title);
    await house.index(house.path(title, '1'), title, '1');
    const before = storeBytes();
    await house.index(house.path(title, '2'), title, '2');
    expect(storeBytes() - before).to.be.greaterThan(5_000_000);
    const sizes = async (): Promise<Sizes['titles'][number] | undefined> => {
      return ((await (await fetch(`${url}/api/sizes`)).json()) as Sizes).titles.find(
        ({ name }) => name === title,
      );
    };
    const own = (await sizes())?.builds.find(({ label }) => label === '2')?.ownBytes ?? 0;
    expect(own).to.be.within(5_000_000, 5_020_000);
    const { output } = await house.run('remove', '--title', title, '--build', '2');
    expect(output).to.include('The build is gone');
    expect(storeBytes()).to.be.lessThan(before + 500_000);
    expect((await sizes())?.builds.map(({ label }) => label)).to.deep.equal(['1']);
    expect((await check()).lines).to.deep.equal([]);
  });

  it('names what is broken in the store, and heals it when the source is indexed again', async () => {
    const title = 'Broken';
    const source = house.path(title, '1');
    makeBuilds(title);
    await house.index(source, title, '1');
    const whole = await leavesOf(house, title, '1');
    const places = await select<{ path: string; packId: number; packOffset: number }>(
      house.pool,
      `SELECT p.path, c.pack_id AS packId, c.pack_offset AS packOffset FROM asset_spans s
         JOIN paths p ON p.digest = s.path_digest JOIN contents c ON c.hash = s.hash
         JOIN channels ch ON ch.id = s.channel_id JOIN titles t ON t.id = ch.title_id WHERE t.name = ? ORDER BY p.path LIMIT 2`,
      [title],
    );
    for (const { packId, packOffset } of places) {
      const file = openSync(packFile(house.folder.store, packId), 'r+');
      writeSync(file, Buffer.from('broken'), 0, 6, packOffset + 100);
      closeSync(file);
    }
    const { code, summary, lines } = await check();
    expect(code).to.equal(1);
    expect(summary).to.include('2 are broken or missing');
    expect(lines).to.deep.equal(
      places.map(({ path }) => `${title}, main, build 1: ${path}: its bytes are not those that were stored`),
    );
    // What is broken is known by now, and still missing.
    expect((await check()).lines).to.deep.equal(
      places.map(({ path }) => `${title}, main, build 1: ${path}: the store lacks it`),
    );
    const healed = await house.index(source, title, '1', '--replace');
    expect(healed.newContents).to.equal(2);
    expect((await check()).lines).to.deep.equal([]);
    expect(await leavesOf(house, title, '1')).to.deep.equal(whole);
  });

  it('heals by the next build too, though its files are the same', async () => {
    const title = 'Healed by the next';
    const source = house.path(title, '1');
    makeBuilds(title);
    await house.index(source, title, '1');
    const [pack] = await select<{ id: number }>(house.pool, 'SELECT MAX(pack_id) AS id FROM contents');
    // Signatures are trusted once a file is two seconds old.
    await new Promise((resolve) => setTimeout(resolve, 2500));
    await house.index(source, title, '2');
    rmSync(packFile(house.folder.store, pack?.id ?? 0));
    expect((await check()).code).to.equal(1);
    expect((await house.index(source, title, '3')).newContents).to.be.greaterThan(0);
    expect((await check()).lines).to.deep.equal([]);
    expect(existsSync(source)).to.equal(true);
  });
});
