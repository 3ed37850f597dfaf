import { join } from 'node:path';
import { writeFileSync } from 'node:fs';
import { benchNames, type BenchName } from '../../cli/bench-names.ts';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { messageOf } from '../../server/platform/plain-error.ts';
import { measuredOf, type BenchResult } from '../result.ts';
import { runFresh } from './fresh-process.ts';
import { circumstances, readHistory, writeHistory, type BenchRun } from './history.ts';
import { benchmarksPage } from './page.ts';

type Say = (line: string) => void;

/** Runs benchmarks one after the other, and writes down each as soon as it is through. @returns whether all met what was asked */
export async function benchEvery(names: readonly BenchName[], say: Say): Promise<boolean> {
  const history = join(applicationRoot, 'docs', 'benchmarks.json');
  let isAllMet = true;
  for (const name of names) {
    const run = await runOne(name, 1, say);
    const runs = [...readHistory(history), run];
    writeHistory(history, runs);
    writeFileSync(join(applicationRoot, 'docs', 'benchmarks.md'), benchmarksPage(runs, benchNames));
    const isMet = run.result?.met ?? false;
    say(`${name}: ${run.failure ?? (isMet ? 'what was asked is met' : 'what was asked is not met')}`);
    isAllMet &&= isMet;
  }
  return isAllMet;
}

/** What a quick run looks at, and how much of everything it takes. */
const quickShares = { index: 0.05, read: 0.015, changes: 0.01, search: 0.02 } as const;

/**
 * A little of everything within four minutes, with limits so wide that a busy machine stays within them, and that twice the time
 * or memory does not. Nothing is written down.
 * @returns what was beyond its limit, or failed; nothing where all is well
 */
export async function benchQuickly(say: Say): Promise<string[]> {
  const wrong: string[] = [];
  for (const [name, share] of Object.entries(quickShares)) {
    const { result, failure, minutes } = await runOne(name as BenchName, share, say);
    say(`${name}: ${minutes} minutes`);
    if (result) wrong.push(...beyond(result));
    else wrong.push(`${name} failed: ${failure ?? 'unknown'}`);
  }
  return wrong;
}

/** What a quick run gave that is worse than noise. */
export function beyond(result: BenchResult): string[] {
  return Object.entries(result.asked).flatMap(([name, { what, quick, least }]) => {
    const measured = measuredOf(result, name);
    if (quick === undefined || (least === undefined ? measured <= quick : measured >= quick)) return [];
    return [
      `${result.bench}: ${what}: ${measured}, and a quick run may give ${quick} at ${least === undefined ? 'most' : 'least'}`,
    ];
  });
}

async function runOne(name: BenchName, share: number, say: Say): Promise<BenchRun> {
  const told = { bench: name, ...circumstances() };
  const begin = Date.now();
  const minutes = (): number => Number(((Date.now() - begin) / 60_000).toFixed(1));
  say(`${name}, with a load of ${told.load}`);
  try {
    const result = await runFresh(name, share, say);
    return { ...told, minutes: minutes(), result, failure: null };
  } catch (error) {
    return { ...told, minutes: minutes(), result: null, failure: messageOf(error) };
  }
}
