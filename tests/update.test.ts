import { expect } from 'chai';
import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { zipSync } from 'fflate';
import type { IntakeResult } from '../contract/builds.ts';
import { gltf, stage } from '../demo/models.ts';
import { planks } from '../demo/pictures.ts';
import { seeded } from '../demo/seeded.ts';
import { select } from '../server/platform/database/rows.ts';
import { TestHouse } from './support/worvel.ts';

/**
 * A build that is gathered as a difference to the one before must be the very build that a first reading of the same
 * source gives: after changes in place, in archives, from another folder and back, and when builds are indexed again.
 */
describe('An update', () => {
  const house = new TestHouse();
  const random = seeded(21);
  const game = (): string => house.path('game');
  let wood: Uint8Array;
  before(async () => {
    await house.open();
    await house.serve(house.port);
    wood = await planks('board', 16, [120, 90, 60], 3);
    for (let index = 0; index < 24; index++) put(`loose/${index % 4}/thing_${index}.txt`, `thing ${index}`);
    for (let archive = 0; archive < 4; archive++)
      pack(
        archive,
        Array.from({ length: 12 }, (_, index) => index),
      );
    for (const [name, bytes] of await gltf('pier', stage(3, wood), 'board.png', false))
      put(`models/${name}`, bytes);
    put('broken.json', '{"a":');
    writeFileSync(join(game(), 'cut.zip'), Buffer.from(zipSync({ 'a.txt': text('a') })).subarray(0, 60));
    symlinkSync('loose/0/thing_0.txt', join(game(), 'link'));
  });
  after(() => house.close());

  const text = (words: string): Uint8Array => new TextEncoder().encode(words);
  const put = (path: string, content: string | Uint8Array): void => {
    const file = join(game(), path);
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, content);
  };
  /** An archive with an archive in it; the seed of each entry says which content it has. */
  const pack = (archive: number, seeds: readonly number[]): void => {
    const inner = zipSync({
      'deep.txt': text(`deep ${seeds[0] ?? 0}`),
      'same.txt': text('the same everywhere'),
    });
    const entries = Object.fromEntries(
      seeds.map((seed, index) => [`e/entry_${index}.csv`, text(`a,b\n${seed},1\n`)]),
    );
    put(`packed_${archive}.zip`, zipSync({ ...entries, 'inner.zip': [inner, { level: 0 }] }));
  };
  const change = (round: number): void => {
    const loose = (): string[] =>
      readdirSync(join(game(), 'loose'), { recursive: true, encoding: 'utf8' }).filter((path) =>
        path.endsWith('.txt'),
      );
    const any = (list: readonly string[]): string => list[Math.floor(random() * list.length)] ?? '';
    put(`loose/${any(loose())}`, `changed in round ${round}`);
    put(`loose/new_${round}.txt`, `new in round ${round}`);
    rmSync(join(game(), 'loose', any(loose())));
    const moved = any(loose());
    mkdirSync(join(game(), 'loose', `moved_${round}`));
    renameSync(join(game(), 'loose', moved), join(game(), 'loose', `moved_${round}`, 'moved.txt'));
    const archive = round % 4;
    pack(
      archive,
      Array.from({ length: 9 + (round % 5) }, (_, index) => (random() < 0.3 ? round * 100 + index : index)),
    );
  };

  /** All that the tables say of one build. */
  const contents = (title: string, build: string): Promise<unknown[]> =>
    select(
      house.pool,
      `SELECT p.path, s.role, s.format, s.by_extension, s.size, HEX(s.hash) AS hash, HEX(s.target_digest) AS target
         FROM asset_spans s JOIN paths p ON p.digest = s.path_digest JOIN builds b ON b.channel_id = s.channel_id
         JOIN channels c ON c.id = b.channel_id JOIN titles t ON t.id = c.title_id
        WHERE t.name = ? AND b.label = ? AND s.first_sequence <= b.sequence AND s.last_sequence >= b.sequence ORDER BY p.path`,
      [title, build],
    );
  const problems = (title: string, build: string): Promise<unknown[]> =>
    select(
      house.pool,
      `SELECT p.path, q.reason FROM problems q JOIN paths p ON p.digest = q.path_digest JOIN builds b ON b.id = q.build_id
         JOIN channels c ON c.id = b.channel_id JOIN titles t ON t.id = c.title_id
        WHERE t.name = ? AND b.label = ? ORDER BY p.path`,
      [title, build],
    );
  let fresh = 0;
  const expectWhole = async (result: IntakeResult, source: string): Promise<void> => {
    const title = `Fresh ${++fresh}`;
    const whole = await house.index(source, title, '1');
    const { files, containers, bytes, locked, unreadable } = whole;
    expect(result).to.include({ files, containers, bytes, locked, unreadable });
    expect(await contents(result.title, result.build)).to.deep.equal(await contents(title, '1'));
    expect(await problems(result.title, result.build)).to.deep.equal(await problems(title, '1'));
  };
  const settle = (): Promise<void> => sleep(2200);

  it('in place is the build that a first reading gives, round after round', async () => {
    await settle();
    await house.index(game(), 'Updated', 'r0');
    for (let round = 1; round <= 5; round++) {
      change(round);
      await settle();
      await expectWhole(await house.index(game(), 'Updated', `r${round}`), game());
    }
    const { summary } = await house.diff('Updated', 'r0', 'r5');
    expect(summary.added + summary.changed + summary.removed).to.be.greaterThan(10);
  });

  it('reads only the files that the system says were touched', async () => {
    await house.index(game(), 'Touched', '1');
    put('loose/new_1.txt', 'touched');
    // Twice, for the file that was too fresh to be sure of.
    await settle();
    await house.index(game(), 'Touched', '2');
    const sources = await select<{ path: string }>(
      house.pool,
      `SELECT p.path FROM source_files f JOIN paths p ON p.digest = f.path_digest JOIN channels c ON c.id = f.channel_id
         JOIN titles t ON t.id = c.title_id WHERE t.name = 'Touched' AND f.signature <> REPEAT('\\0', 16)`,
    );
    expect(sources.length).to.be.greaterThan(20);
    const result = await house.index(game(), 'Touched', '3');
    expect(result).to.include({ newContents: 0 });
    expect((await house.diff('Touched', '2', '3')).findings).to.deep.equal([]);
  });

  it('from another folder and back is never taken for what it is not', async () => {
    const copy = house.path('copy');
    cpSync(game(), copy, { recursive: true, verbatimSymlinks: true });
    writeFileSync(join(copy, 'loose', 'new_1.txt'), 'only in the copy');
    await settle();
    await house.index(game(), 'Wandering', '1');
    await expectWhole(await house.index(copy, 'Wandering', '2'), copy);
    await expectWhole(await house.index(game(), 'Wandering', '3'), game());
    expect((await house.diff('Wandering', '1', '3')).findings).to.deep.equal([]);
    expect((await house.diff('Wandering', '1', '2')).summary).to.include({
      changed: 1,
      added: 0,
      removed: 0,
    });
  });

  it('after builds were indexed again, older and newest, is still whole', async () => {
    await house.index(game(), 'Again', '1');
    await house.index(house.path('copy'), 'Again', '2');
    await house.index(house.path('copy'), 'Again', '1', '--replace');
    await house.index(game(), 'Again', '2', '--replace');
    put('loose/late.txt', 'late');
    await settle();
    await expectWhole(await house.index(game(), 'Again', '3'), game());
    expect((await house.diff('Again', '2', '3')).summary).to.include({ added: 1, changed: 0, removed: 0 });
  });

  it('looks at a model again when a file that it names comes or goes', async () => {
    await house.index(game(), 'Model', '1');
    rmSync(join(game(), 'models', 'board.png'));
    await settle();
    await house.index(game(), 'Model', '2');
    const facts = async (): Promise<string> =>
      JSON.stringify(
        await select(
          house.pool,
          "SELECT facts FROM content_facts WHERE format = 'gltf' AND facts LIKE '%missing%'",
        ),
      );
    expect(await facts()).to.include('board.png');
    put('models/board.png', wood);
    await house.index(game(), 'Model', '3');
    expect(await facts()).not.to.include('board.png');
  });

  it('that was killed goes on as a difference, and ends whole', async () => {
    for (let index = 0; index < 30; index++)
      put(`large/${index}.bin`, Buffer.alloc(3_000_000, `large ${index}`));
    await settle();
    await house.index(game(), 'Killed', '1');
    for (let index = 0; index < 30; index += 2)
      put(`large/${index}.bin`, Buffer.alloc(3_000_000, `other ${index}`));
    pack(0, [9, 8, 7, 6]);
    await settle();
    // In a process of its own, which can be killed without the server.
    await house.stopServer();
    const child = house.start([
      'index',
      game(),
      '--title',
      'Killed',
      '--build',
      '2',
      '--threads',
      '1',
      '--json',
    ]);
    await new Promise<void>((resolve) => {
      child.stderr?.on('data', (piece: Buffer) => {
        if (piece.toString('utf8').includes('"phase"')) child.kill('SIGKILL');
      });
      child.on('exit', () => resolve());
    });
    await expectWhole(await house.index(game(), 'Killed', '2'), game());
    expect(existsSync(join(game(), 'large'))).to.equal(true);
  });
});
