import { benchPublish } from '../bench/publish-bench.ts';
import { benchFormats } from '../bench/formats-bench.ts';
import { benchChanges } from '../bench/changes-bench.ts';
import { benchDamage } from '../bench/damage-bench.ts';
import { benchIndex } from '../bench/index-bench.ts';
import { benchLibrary } from '../bench/library-bench.ts';
import { benchRead } from '../bench/read-bench.ts';
import { benchHaul } from '../bench/haul-bench.ts';
import { benchLook } from '../bench/look-bench.ts';
import { benchUpdate } from '../bench/update-bench.ts';
import { benchIntake, fullSizes, type IntakeSizes } from '../bench/intake-bench.ts';
import { benchLikeness } from '../bench/likeness-bench.ts';
import { benchTruth } from '../bench/truth-bench.ts';
import { benchSearch } from '../bench/search-bench.ts';
import { benchWorkers } from '../bench/workers-bench.ts';
import type { BenchResult } from '../bench/result.ts';
import { benchNames, type BenchName } from './bench-names.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { UsageError } from './usage-error.ts';

const benches: Record<BenchName, (say: (line: string) => void) => Promise<BenchResult>> = {
  index: (say) => benchIndex(say, shareOf(process.env.WORVEL_BENCH_SHARE)),
  update: (say) => benchUpdate(say, Math.round(100_000 * shareOf(process.env.WORVEL_BENCH_SHARE))),
  damage: (say) => benchDamage(say),
  read: (say) => benchRead(say, Math.round(2000 * shareOf(process.env.WORVEL_BENCH_SHARE))),
  changes: (say) => benchChanges(say, shareOf(process.env.WORVEL_BENCH_SHARE)),
  library: (say) => benchLibrary(say, Math.round(1_000_000 * shareOf(process.env.WORVEL_BENCH_SHARE))),
  search: (say) => benchSearch(say, Math.round(1_000_000 * shareOf(process.env.WORVEL_BENCH_SHARE))),
  likeness: (say) => benchLikeness(say, shareOf(process.env.WORVEL_BENCH_SHARE)),
  truth: (say) => benchTruth(say, shareOf(process.env.WORVEL_BENCH_SHARE)),
  intake: (say) => benchIntake(say, sizesOf(process.env.WORVEL_BENCH_SHARE)),
  look: (say) => benchLook(say, shareOf(process.env.WORVEL_BENCH_SHARE)),
  haul: (say) => benchHaul(say, shareOf(process.env.WORVEL_BENCH_SHARE)),
  publish: (say) => benchPublish(say, shareOf(process.env.WORVEL_BENCH_SHARE)),
  formats: (say) => benchFormats(say, shareOf(process.env.WORVEL_BENCH_SHARE)),
  workers: (say) => benchWorkers(say, Math.round(3000 * shareOf(process.env.WORVEL_BENCH_SHARE))),
};

export interface BenchOptions {
  json?: boolean;
  quick?: boolean;
  only: string[];
}

export async function benchCommand(name: string, { json, quick, only }: BenchOptions): Promise<void> {
  const say = (line: string): void => void process.stderr.write(`${line}\n`);
  if (name === 'all') return benchAll(say, { quick, only });
  if (quick || only.length > 0) throw new UsageError('--quick and --only go with “bench all”.');
  const known = benchNames.find((candidate) => candidate === name);
  if (!known)
    throw new UsageError(`There is no benchmark ${name}: there are ${benchNames.join(', ')}, and all.`);
  const result = await benches[known](say);
  for (const part of [result.figures, result.ratios]) {
    for (const key of Object.keys(part)) part[key] = Number((part[key] ?? 0).toPrecision(4));
  }
  if (json) {
    process.stdout.write(`${JSON.stringify(result)}\n`);
    return;
  }
  for (const [key, value] of [...Object.entries(result.figures), ...Object.entries(result.ratios)]) {
    process.stdout.write(`${key.padEnd(24)} ${value}\n`);
  }
  process.stdout.write(`${result.met ? 'What was asked is met.' : 'What was asked is not met.'}\n`);
}

async function benchAll(
  say: (line: string) => void,
  { quick, only }: Pick<BenchOptions, 'quick' | 'only'>,
): Promise<void> {
  const { benchEvery, benchQuickly } = await import('../bench/record/every-bench.ts');
  if (quick) {
    const wrong = await benchQuickly(say);
    if (wrong.length > 0) throw new PlainError(wrong.join('\n'));
    process.stdout.write('All is within its limits.\n');
    return;
  }
  const unknown = only.find((one) => !benchNames.some((name) => name === one));
  if (unknown !== undefined) throw new UsageError(`There is no benchmark ${unknown}.`);
  const isMet = await benchEvery(
    benchNames.filter((name) => only.length === 0 || only.includes(name)),
    say,
  );
  process.stdout.write(`${isMet ? 'What was asked is met.' : 'Not all that was asked is met.'}\n`);
}

/** `WORVEL_BENCH_SHARE=0.1` makes a trial run of a tenth of everything. */
function shareOf(share: string | undefined): number {
  const factor = Number(share ?? 1);
  if (!(factor > 0 && factor <= 1))
    throw new UsageError('WORVEL_BENCH_SHARE must be above 0, and 1 at most.');
  return factor;
}

function sizesOf(share: string | undefined): IntakeSizes {
  const factor = shareOf(share);
  const { files, bytes, smallAssets } = fullSizes;
  return {
    files: Math.round(files * factor),
    bytes: Math.round(bytes * factor),
    smallAssets: Math.round((smallAssets * factor) / 1000) * 1000,
  };
}
