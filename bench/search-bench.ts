import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { applicationRoot } from '../server/application-root.ts';
import { openDataFolder } from '../server/data-folder.ts';
import { migrate } from '../server/database/migrate.ts';
import { openPool } from '../server/database/pool.ts';
import { shareDatabase } from '../server/database/private-mariadb.ts';
import { seeded } from '../demo/seeded.ts';
import { manyPaths, insertBuild } from './million-paths.ts';
import { MemoryWatch } from './memory.ts';
import type { BenchResult } from './result.ts';
import { run, waitFor } from './running.ts';

const queries = 200;

/**
 * Searches of one to three words over a million paths, the first hundred hits each, through HTTP; beside each the same
 * with ripgrep over a file that lists the paths, in turn.
 */
export async function benchSearch(say: (line: string) => void, count = 1_000_000): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-search-'));
  const data = join(work, 'data');
  const port = 20_000 + (process.pid % 20_000);
  const url = `http://127.0.0.1:${port}`;
  let server: ChildProcess | null = null;
  const serve = async (): Promise<void> => {
    server = spawn(join(applicationRoot, 'worvel'), ['serve', '--port', String(port), '--data', data], { stdio: 'ignore' });
    await waitFor(`${url}/api/health`);
  };
  const stop = async (): Promise<void> => {
    const ended = new Promise((resolve) => server?.on('exit', resolve));
    server?.kill('SIGINT');
    await ended;
  };
  try {
    say(`Putting ${count} paths into a database`);
    await prepare(data, count);
    const listing = join(work, 'paths.txt');
    writeFileSync(listing, `${[...manyPaths(count)].join('\n')}\n`);
    await serve();
    const making = await timed(() => ask(url, 'heron'));
    say(`The tables were made in ${making.seconds.toFixed(1)} s`);
    await stop();
    const begin = performance.now();
    await serve();
    await ask(url, 'heron');
    const readySeconds = (performance.now() - begin) / 1000;
    say(`Ready ${readySeconds.toFixed(2)} s after a start`);
    const memory = new MemoryWatch(() => (server?.pid ? [server.pid] : []));
    const ours: number[] = [];
    const theirs: number[] = [];
    for (const words of someQueries(count)) {
      ours.push((await timed(() => ask(url, words.join(' ')))).seconds);
      const [first = '', ...others] = words;
      const pipe = ['rg -iF -- "$1" "$0"', ...others.map((_, at) => `rg -iF -- "$${at + 2}"`)].join(' | ');
      theirs.push((await run('sh', ['-c', `${pipe} | head -100; true`, listing, first, ...others])).seconds);
    }
    const memoryMebibytes = memory.stop() / 1024 ** 2;
    const at = (values: number[], share: number): number => values.sort((a, b) => a - b)[Math.floor(values.length * share)] ?? 0;
    const figures = {
      paths: count,
      tablesSeconds: making.seconds,
      readySeconds,
      p50Milliseconds: at(ours, 0.5) * 1000,
      p95Milliseconds: at(ours, 0.95) * 1000,
      otherP50Milliseconds: at(theirs, 0.5) * 1000,
      otherP95Milliseconds: at(theirs, 0.95) * 1000,
      serverMebibytes: memoryMebibytes,
    };
    const ratios = { p50: at(theirs, 0.5) / at(ours, 0.5), p95: at(theirs, 0.95) / at(ours, 0.95) };
    return {
      bench: 'search',
      figures,
      ratios,
      met: figures.p95Milliseconds < 15 && ratios.p50 >= 5 && ratios.p95 >= 5 && readySeconds < 5 && memoryMebibytes < 500,
    };
  } finally {
    if (server) await stop();
    rmSync(work, { recursive: true, force: true });
  }
} // prettier-ignore

async function prepare(data: string, count: number): Promise<void> {
  const folder = openDataFolder(data);
  const database = await shareDatabase(folder);
  const pool = openPool(database.address, 2);
  try {
    await migrate(pool);
    await insertBuild(pool, 'Search', count);
  } finally {
    await pool.end();
    await database.release();
  }
}

/** Common words, rare ones, ones that occur nowhere, and numbers. */
function* someQueries(count: number): Generator<string[]> {
  const random = seeded(23);
  const words = ['heron', 'lantern', 'wing', 'upper', '_nrm', 'png', 'stage', 'skiff', 'ember', '_l2', 'broken', 'birds', 'zebra'];
  for (let query = 0; query < queries; query++)
    yield Array.from({ length: 1 + (query % 3) }, () =>
      random() < 0.25 ? String(Math.floor(random() * count)).slice(0, 5) : (words[Math.floor(random() * words.length)] ?? ''),
    );
} // prettier-ignore

/** One connection is kept, as a browser keeps it. */
function ask(url: string, text: string): Promise<number> {
  return new Promise((resolve, reject) => {
    request(`${url}/api/assets?channel=1&build=1&limit=100&text=${encodeURIComponent(text)}`, (answer) => {
      let length = 0;
      answer.on('data', (piece: Buffer) => (length += piece.length));
      answer.on('end', () => (answer.statusCode === 200 ? resolve(length) : reject(new Error(`${text}: ${answer.statusCode ?? 0}`))));
    })
      .on('error', reject)
      .end();
  });
} // prettier-ignore

async function timed(work: () => Promise<unknown>): Promise<{ seconds: number }> {
  const begin = performance.now();
  await work();
  return { seconds: (performance.now() - begin) / 1000 };
}
