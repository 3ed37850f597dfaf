import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { sendRequest } from '../cli/server-client.ts';
import { intakeRequestSchema } from '../contract/builds.ts';
import type { Summary } from '../contract/findings.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { openDataFolder } from '../server/platform/data-folder.ts';
import { migrate } from '../server/platform/database/migrate.ts';
import { openPool } from '../server/platform/database/pool.ts';
import { shareDatabase } from '../server/platform/database/private-mariadb.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { createJob } from '../server/acquire/builds/index-jobs.ts';
import { findJob } from '../server/jobs/jobs.ts';
import { MemoryWatch } from './memory.ts';
import { resultOf, type BenchResult } from './result.ts';
import { databasePids, median, run, waitFor, type Timed } from './running.ts';
import { SmallAssets } from './small-assets.ts';
import { BenchTree, mostlyUnread } from './tree.ts';

const mebibyte = 1024 ** 2;
const worvelProgram = join(applicationRoot, 'worvel');
const titled = ['--title', 'Bench', '--json'];

/** Sizes of everything; a trial run takes a part of them. */
export interface IntakeSizes {
  files: number;
  bytes: number;
  smallAssets: number;
}

export const fullSizes: IntakeSizes = { files: 100_000, bytes: 5 * 1024 * mebibyte, smallAssets: 1_000_000 };

const asked = {
  firstArrivalToRestic: { what: 'a first build arrives / `restic backup`', most: 0.35 },
  secondArrivalToRestic: { what: 'a second one, read again / `restic backup --force`', most: 0.4 },
  zipToUnzip: { what: 'a ZIP / `unzip -t`', most: 1 },
  tarSpeedToBsdtar: { what: '`bsdtar -xOf … | b3sum` / a TAR', least: 0.9 },
  archivesPeakMebibytes: { what: 'memory with the archives, MiB', most: 600 },
  twoWorkersToOne: { what: 'one worker / two workers', least: 1.7 },
  millionFirstSeconds: { what: 'a million small assets arrive, s', most: 120 },
  millionSecondSeconds: { what: 'the second million, s', most: 60 },
  millionFirstDiffSeconds: { what: 'the first diff of them, s', most: 3 },
  millionDiffSeconds: { what: 'later diffs, s', most: 1.5 },
  millionPeakMebibytes: { what: 'memory with them, MiB', most: 1229 },
};

interface House {
  work: string;
  say: (line: string) => void;
  figures: Record<string, number>;
  ratios: Record<string, number>;
}

/**
 * Bringing builds in, each in turn with a general-purpose program that does the same work: folders against `restic backup`,
 * one ZIP against `unzip -t`, one TAR against `bsdtar` and `b3sum`; a million small assets; and two worker processes
 * against one. What is read is written by nobody else meanwhile, and lies in the system's cache for both.
 */
export async function benchIntake(say: (line: string) => void, sizes = fullSizes): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-bench-'));
  const house: House = { work, say, figures: {}, ratios: {} };
  try {
    await benchFolders(house, sizes);
    await benchWorkers(house);
    rmSync(join(work, 'game'), { recursive: true });
    await benchArchives(house, (sizes.bytes * 4) / 5);
    await benchSmallAssets(house, sizes.smallAssets);
    return resultOf('intake', house.figures, house.ratios, asked);
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

/** The second build is another folder with other files in it: nothing can be taken for unchanged without being read. */
async function benchFolders(
  { work, say, figures, ratios }: House,
  { files, bytes }: IntakeSizes,
): Promise<void> {
  const tree = new BenchTree({
    files,
    bytes,
    filesPerArchive: 250,
    looseShare: 1,
    extensions: mostlyUnread,
  });
  say(`Making ${files} files of ${(tree.bytes / mebibyte).toFixed(0)} MiB in folders`);
  const game = join(work, 'game');
  tree.writeUnpacked(game);
  const restic = (...args: string[]): Promise<Timed> =>
    run('restic', ['-q', '-r', join(work, 'restic'), '--no-cache', ...args], undefined, {
      RESTIC_PASSWORD: 'bench',
    });
  const data = join(work, 'data');
  const index = (source: string, build: string): Promise<Timed> =>
    run(worvelProgram, ['index', source, '--arrive', ...titled, '--build', build, '--data', data]);
  await restic('init');
  settle();
  figures.firstIndexSeconds = (await index(game, '1')).seconds;
  say(`First index ${figures.firstIndexSeconds.toFixed(1)} s`);
  settle();
  figures.resticFirstSeconds = (await restic('backup', game)).seconds;
  say(`First restic backup ${figures.resticFirstSeconds.toFixed(1)} s`);
  const before = tree.state();
  tree.advance();
  const second = join(work, 'second');
  spawnSync('cp', ['-r', game, second]);
  tree.writeUnpacked(second, before);
  settle();
  figures.secondIndexSeconds = (await index(second, '2')).seconds;
  say(`Second index ${figures.secondIndexSeconds.toFixed(1)} s`);
  // restic, too, reads everything again.
  renameSync(game, join(work, 'old'));
  renameSync(second, game);
  settle();
  figures.resticSecondSeconds = (await restic('backup', '--force', game)).seconds;
  say(`Second restic backup ${figures.resticSecondSeconds.toFixed(1)} s`);
  rmSync(join(work, 'old'), { recursive: true });
  rmSync(join(work, 'restic'), { recursive: true });
  rmSync(data, { recursive: true });
  ratios.firstArrivalToRestic = figures.firstIndexSeconds / figures.resticFirstSeconds;
  ratios.secondArrivalToRestic = figures.secondIndexSeconds / figures.resticSecondSeconds;
}

/**
 * One ZIP and one TAR of the same files of some 4 MiB. The ZIP comes into a store that holds nothing yet; the TAR holds
 * what is there by then, so that it is read and hashed and not written, as by `bsdtar` and `b3sum`.
 */
async function benchArchives({ work, say, figures, ratios }: House, bytes: number): Promise<void> {
  const zip = join(work, 'game.zip');
  const tar = join(work, 'game.tar');
  const loose = join(work, 'large');
  say('Packing the same files as one ZIP and as one TAR');
  const size = { files: Math.round(bytes / (4 * mebibyte)), bytes, filesPerArchive: 250 };
  new BenchTree({ ...size, looseShare: 1, extensions: ['bin', 'tex'] }).writeUnpacked(loose);
  await run('sh', ['-c', `cd "$1" && zip -q -1 -r "$2" .`, 'sh', loose, zip]);
  await run('tar', ['-cf', tar, '-C', loose, '.']);
  rmSync(loose, { recursive: true });
  figures.zipMebibytes = statSync(zip).size / mebibyte;
  figures.tarMebibytes = statSync(tar).size / mebibyte;
  let peak = 0;
  const data = join(work, 'data');
  const index = async (source: string, build: string): Promise<number> => {
    const pids = new Set<number>();
    const memory = new MemoryWatch(() => [...pids, ...databasePids(data)]);
    const { seconds } = await run(
      worvelProgram,
      ['index', source, '--arrive', ...titled, '--build', build, '--data', data],
      pids,
    );
    peak = Math.max(peak, memory.stop());
    return seconds;
  };
  settle();
  figures.zipSeconds = await index(zip, '1');
  settle();
  figures.unzipSeconds = (await run('unzip', ['-tqq', zip])).seconds;
  say(`ZIP ${figures.zipSeconds.toFixed(1)} s, unzip -t ${figures.unzipSeconds.toFixed(1)} s`);
  settle();
  figures.tarSeconds = await index(tar, '2');
  settle();
  figures.bsdtarSeconds = (await run('sh', ['-c', `bsdtar -xOf "$1" | b3sum`, 'sh', tar])).seconds;
  say(`TAR ${figures.tarSeconds.toFixed(1)} s, bsdtar | b3sum ${figures.bsdtarSeconds.toFixed(1)} s`);
  figures.archivesPeakMebibytes = peak / mebibyte;
  ratios.zipToUnzip = figures.zipSeconds / figures.unzipSeconds;
  ratios.tarSpeedToBsdtar = figures.bsdtarSeconds / figures.tarSeconds;
  rmSync(data, { recursive: true });
  rmSync(zip);
  rmSync(tar);
}

/** Four builds of a quarter of the files each, waiting in one queue: one worker process with one thread, then two. */
async function benchWorkers({ work, say, figures, ratios }: House): Promise<void> {
  const parts = join(work, 'parts');
  mkdirSync(parts);
  const groups = readdirSync(join(work, 'game', 'loose'));
  for (const [index, group] of groups.entries()) {
    const part = join(parts, String(index % 4));
    mkdirSync(part, { recursive: true });
    spawnSync('cp', ['-rl', join(work, 'game', 'loose', group), part]);
  }
  for (const workers of [1, 2]) {
    settle();
    figures[workers === 1 ? 'oneWorkerSeconds' : 'twoWorkersSeconds'] = await timeWorkers(
      work,
      parts,
      workers,
    );
  }
  say(`One worker ${figures.oneWorkerSeconds?.toFixed(1)} s, two ${figures.twoWorkersSeconds?.toFixed(1)} s`);
  ratios.twoWorkersToOne = (figures.oneWorkerSeconds ?? 0) / (figures.twoWorkersSeconds ?? Infinity);
  rmSync(parts, { recursive: true });
}

async function timeWorkers(work: string, parts: string, count: number): Promise<number> {
  const data = join(work, 'data');
  const database = await shareDatabase(openDataFolder(data));
  const pool = openPool(database.address, 2);
  const workers: ChildProcess[] = [];
  try {
    await migrate(pool);
    const jobs: number[] = [];
    for (const part of readdirSync(parts)) {
      const request = { source: join(parts, part), title: `Part ${part}`, build: '1', threads: 1 };
      jobs.push(await createJob(pool, intakeRequestSchema.parse(request), null));
    }
    const begin = Date.now();
    for (let worker = 0; worker < count; worker++)
      workers.push(spawn(worvelProgram, ['work', '--data', data], { stdio: 'ignore' }));
    for (;;) {
      const states = await Promise.all(jobs.map(async (id) => (await findJob(pool, id)).state));
      if (states.some((state) => state === 'failed')) throw new PlainError('A job of the benchmark failed.');
      if (states.every((state) => state === 'done')) return (Date.now() - begin) / 1000;
      await sleep(50);
    }
  } finally {
    for (const worker of workers) {
      worker.kill('SIGINT');
      await new Promise((resolve) => worker.on('exit', resolve));
    }
    await pool.end();
    await database.release();
    rmSync(data, { recursive: true });
  }
}

async function benchSmallAssets({ work, say, figures }: House, count: number): Promise<void> {
  const small = new SmallAssets(count);
  const data = join(work, 'data');
  const port = 20_000 + (process.pid % 20_000);
  say(`Making two builds of ${count} small assets`);
  small.write(join(work, 'small-1'), false);
  const expected = small.write(join(work, 'small-2'), true);
  const server = spawn(worvelProgram, ['serve', '--port', String(port), '--data', data], { stdio: 'ignore' });
  const url = `http://127.0.0.1:${port}`;
  try {
    await waitFor(`${url}/api/health`);
    const pids = new Set([server.pid ?? 0]);
    const memory = new MemoryWatch(() => [...pids]);
    const index = async (build: string): Promise<number> => {
      const { seconds } = await run(
        worvelProgram,
        [
          'index',
          join(work, `small-${build}`),
          '--arrive',
          '--title',
          'Small',
          '--build',
          build,
          '--json',
          '--data',
          data,
        ],
        pids,
      );
      return seconds;
    };
    figures.millionFirstSeconds = await index('1');
    say(`First ${figures.millionFirstSeconds.toFixed(1)} s`);
    figures.millionSecondSeconds = await index('2');
    say(`Second ${figures.millionSecondSeconds.toFixed(1)} s`);
    const diffSeconds: number[] = [];
    let answer = '';
    for (let round = 0; round < 5; round++) {
      const begin = process.hrtime.bigint();
      answer = (await sendRequest(`${url}/api/diff?title=Small&channel=main&from=1&to=2`)).body;
      diffSeconds.push(Number(process.hrtime.bigint() - begin) / 1e9);
    }
    figures.millionFirstDiffSeconds = diffSeconds[0] ?? 0;
    const { summary } = JSON.parse(answer.trimEnd().split('\n').at(-1) ?? '') as { summary: Summary };
    for (const status of ['changed', 'moved', 'added', 'removed'] as const) {
      if (summary[status] !== expected[status])
        throw new PlainError(
          `The diff found ${summary[status]} ${status}, and ${expected[status]} were made.`,
        );
    }
    figures.millionDiffSeconds = median(diffSeconds);
    const begin = process.hrtime.bigint();
    await sendRequest(`${url}/api/search?channel=1&build=2&query=thing_777777`);
    figures.millionSearchSeconds = Number(process.hrtime.bigint() - begin) / 1e9;
    figures.millionPeakMebibytes = memory.stop() / mebibyte;
    say(
      `Diff ${figures.millionDiffSeconds.toFixed(2)} s, peak ${figures.millionPeakMebibytes.toFixed(0)} MiB`,
    );
  } finally {
    server.kill('SIGINT');
    await new Promise((resolve) => server.on('exit', resolve));
  }
}

/** What was written before must not be written out while something else is timed. */
function settle(): void {
  spawnSync('sync');
}
