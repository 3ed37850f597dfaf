import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seeded } from '../demo/seeded.ts';
import { MemoryWatch } from './memory.ts';
import { manyPaths } from './million-paths.ts';
import { MillionServer } from './million-server.ts';
import type { BenchResult } from './result.ts';
import { run } from './running.ts';

const queries = 200;

/**
 * Searches of one to three words over a million paths, the first hundred hits each, through HTTP; beside each the same
 * with ripgrep over a file that lists the paths, in turn.
 */
export async function benchSearch(say: (line: string) => void, count = 1_000_000): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-search-'));
  const house = new MillionServer(join(work, 'data'));
  const ask = (text: string): Promise<number> => house.timed('assets', { text, limit: '100' });
  try {
    say(`Putting ${count} paths into a database`);
    await house.prepare(count);
    const listing = join(work, 'paths.txt');
    writeFileSync(listing, `${[...manyPaths(count)].join('\n')}\n`);
    await house.serve();
    const tablesSeconds = await ask('heron');
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
    const memoryMebibytes = memory.stop() / 1024 ** 2;
    const at = (values: number[], share: number): number =>
      values.sort((a, b) => a - b)[Math.floor(values.length * share)] ?? 0;
    const figures = {
      paths: count,
      tablesSeconds,
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
      met:
        figures.p95Milliseconds < 15 &&
        ratios.p50 >= 5 &&
        ratios.p95 >= 5 &&
        readySeconds < 5 &&
        memoryMebibytes < 500,
    };
  } finally {
    await house.close();
    rmSync(work, { recursive: true, force: true });
  }
}

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
