import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { seeded } from '../demo/seeded.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { MemoryWatch } from './memory.ts';
import { insertUpdate, manyPaths } from './million-paths.ts';
import { MillionServer } from './million-server.ts';
import { resultOf, type BenchResult } from './result.ts';
import { run } from './running.ts';
import { BenchTree } from './tree.ts';

const queries = 200;

/**
 * Searches of one to three words over a million paths, the first hundred hits each, through HTTP; beside each the same
 * with ripgrep over a file that lists the paths, in turn.
 */
export async function benchSearch(say: (line: string) => void, count = 1_000_000): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-search-'));
  const data = join(work, 'data');
  const house = new MillionServer(data);
  const ask = (text: string, build = '1'): Promise<number> =>
    house.timed('assets', { text, build, limit: '100' });
  try {
    say(`Putting ${count} paths into a database`);
    await house.prepare(count);
    const listing = join(work, 'paths.txt');
    writeFileSync(listing, `${[...manyPaths(count)].join('\n')}\n`);
    await house.serve();
    const whileMade = new MemoryWatch(() => house.processes);
    const tablesSeconds = await ask('heron');
    const whileMadeBytes = whileMade.stop();
    say(`The tables were made in ${tablesSeconds.toFixed(1)} s`);
    await house.close();
    const begin = performance.now();
    await house.serve();
    await ask('heron');
    const readySeconds = (performance.now() - begin) / 1000;
    say(`Ready ${readySeconds.toFixed(2)} s after a start`);
    const memory = new MemoryWatch(() => house.processes);
    const ours: number[] = [];
    const theirs: number[] = [];
    for (const words of someQueries(count)) {
      ours.push(await ask(words.join(' ')));
      const [first = '', ...others] = words;
      const pipe = ['rg -iF -- "$1" "$0"', ...others.map((_, at) => `rg -iF -- "$${at + 2}"`)].join(' | ');
      theirs.push((await run('sh', ['-c', `${pipe} | head -100; true`, listing, first, ...others])).seconds);
    }
    const serverMebibytes = Math.max(whileMadeBytes, memory.stop()) / 1024 ** 2;
    const busy = await askWhileReading(work, data, [...someQueries(count)], ask);
    say(`${busy.length} searches beside a build that came in`);
    await house.withPool(insertUpdate);
    const updateBegin = performance.now();
    // The server looks at what builds there are a few times a second.
    await sleep(250);
    await ask('heron', '2');
    const updateSeconds = (performance.now() - updateBegin) / 1000;
    say(`Ready ${updateSeconds.toFixed(2)} s after a new build`);
    const at = (values: number[], share: number): number =>
      values.sort((a, b) => a - b)[Math.floor(values.length * share)] ?? 0;
    const figures = {
      paths: count,
      tablesSeconds,
      readySeconds,
      updateSeconds,
      busyP95Milliseconds: at(busy, 0.95) * 1000,
      p50Milliseconds: at(ours, 0.5) * 1000,
      p95Milliseconds: at(ours, 0.95) * 1000,
      otherP50Milliseconds: at(theirs, 0.5) * 1000,
      otherP95Milliseconds: at(theirs, 0.95) * 1000,
      serverMebibytes,
    };
    const ratios = { p50: at(theirs, 0.5) / at(ours, 0.5), p95: at(theirs, 0.95) / at(ours, 0.95) };
    return resultOf('search', figures, ratios, asked);
  } finally {
    await house.close();
    rmSync(work, { recursive: true, force: true, maxRetries: 10, retryDelay: 200 });
  }
}

/** Searches, for as long as the same server brings in a build and reads it. */
async function askWhileReading(
  work: string,
  data: string,
  queries: readonly string[][],
  ask: (text: string) => Promise<number>,
): Promise<number[]> {
  const source = join(work, 'another');
  new BenchTree({ files: 3000, bytes: 160 * 1024 ** 2, filesPerArchive: 250 }).writeBuild(source);
  let isIn = false;
  const indexing = run(join(applicationRoot, 'worvel'), [
    ...['index', source, '--title', 'Another', '--build', '1', '--json', '--data', data],
  ]).finally(() => (isIn = true));
  const seconds: number[] = [];
  for (let at = 0; !isIn; at++) seconds.push(await ask((queries[at % queries.length] ?? []).join(' ')));
  await indexing;
  return seconds;
}

const asked = {
  p95Milliseconds: { what: '95 of 100 searches, ms', most: 10 },
  busyP95Milliseconds: { what: 'the same while the server reads a build, ms', most: 20 },
  p50: { what: '`rg -iF` / half of the searches', least: 5, quick: 1 },
  p95: { what: '`rg -iF` / 95 of 100 searches', least: 5, quick: 1 },
  readySeconds: { what: 'ready after a start, s', most: 2, quick: 8 },
  updateSeconds: { what: 'ready after a new build, s', most: 3, quick: 12 },
  serverMebibytes: { what: 'memory of the server, MiB', most: 450, quick: 900 },
};

/** Common words, rare ones, ones that occur nowhere, and numbers. */
function* someQueries(count: number): Generator<string[]> {
  const random = seeded(23);
  const words = [
    'heron',
    'lantern',
    'wing',
    'upper',
    '_nrm',
    'png',
    'stage',
    'skiff',
    'ember',
    '_l2',
    'broken',
    'birds',
    'zebra',
  ];
  for (let query = 0; query < queries; query++)
    yield Array.from({ length: 1 + (query % 3) }, () =>
      random() < 0.25
        ? String(Math.floor(random() * count)).slice(0, 5)
        : (words[Math.floor(random() * words.length)] ?? ''),
    );
}
