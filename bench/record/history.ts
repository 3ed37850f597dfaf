import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { cpus, loadavg } from 'node:os';
import * as z from 'zod';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { benchResultSchema } from '../result.ts';

/** One run of one benchmark. */
export const benchRunSchema = z.object({
  bench: z.string(),
  date: z.iso.datetime(),
  /** Abbreviated; with a plus where something was changed since; null where there is no repository. */
  commit: z.string().nullable(),
  cores: z.number(),
  processor: z.string(),
  /** What waited for a core when it began, in the mean of a minute. */
  load: z.number(),
  /** Of a hundred million additions with a remainder, in seconds: how fast the machine was then. */
  paceSeconds: z.number(),
  minutes: z.number(),
  /** Null where it failed: why. */
  result: benchResultSchema.nullable(),
  failure: z.string().nullable(),
});
export type BenchRun = z.infer<typeof benchRunSchema>;

export function readHistory(file: string): BenchRun[] {
  return existsSync(file) ? benchRunSchema.array().parse(JSON.parse(readFileSync(file, 'utf8'))) : [];
}

/** One run to a line, so that two histories can be put together. */
export function writeHistory(file: string, runs: readonly BenchRun[]): void {
  writeFileSync(file, `[\n${runs.map((run) => JSON.stringify(run)).join(',\n')}\n]\n`);
}

/** What is to be known of a machine and of the sources when a benchmark begins. */
export function circumstances(): Pick<
  BenchRun,
  'date' | 'commit' | 'cores' | 'processor' | 'load' | 'paceSeconds'
> {
  const [first] = cpus();
  return {
    date: new Date().toISOString(),
    commit: commitOf(),
    cores: cpus().length,
    processor: first?.model ?? 'unknown',
    load: Number((loadavg()[0] ?? 0).toFixed(2)),
    paceSeconds: pace(),
  };
}

function commitOf(): string | null {
  const git = (...args: string[]): string =>
    execFileSync('git', ['-C', applicationRoot, ...args], { stdio: ['ignore', 'pipe', 'ignore'] })
      .toString('utf8')
      .trim();
  try {
    const isChanged = git('status', '--porcelain', '--untracked-files=no') !== '';
    return `${git('rev-parse', '--short=9', 'HEAD')}${isChanged ? '+' : ''}`;
  } catch {
    // Unpacked without a repository, or there is no git.
    return null;
  }
}

function pace(): number {
  const begin = performance.now();
  let sum = 0;
  for (let number = 0; number < 1e8; number++) sum = (sum + number) % 1_000_003;
  return sum < 0 ? 0 : Number(((performance.now() - begin) / 1000).toFixed(3));
}
