import { benchIndex } from '../bench/index-bench.ts';
import type { BenchResult } from '../bench/result.ts';
import { UsageError, parseArguments } from './arguments.ts';

const benches: Record<string, (say: (line: string) => void) => Promise<BenchResult>> = {
  index: (say) => benchIndex(say),
};

export async function benchCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, {});
  const [name = ''] = given.positionals;
  const bench = Object.hasOwn(benches, name) ? benches[name] : undefined;
  if (!bench) throw new UsageError(`A benchmark is needed: ${Object.keys(benches).join(', ')}.`);
  const result = await bench((line) => process.stderr.write(`${line}\n`));
  for (const part of [result.figures, result.ratios]) {
    for (const key of Object.keys(part)) part[key] = Number((part[key] ?? 0).toPrecision(4));
  }
  if (given.flag('json')) {
    process.stdout.write(`${JSON.stringify(result)}\n`);
    return;
  }
  for (const [key, value] of [...Object.entries(result.figures), ...Object.entries(result.ratios)]) {
    process.stdout.write(`${key.padEnd(24)} ${value}\n`);
  }
  process.stdout.write(`${result.met ? 'What was asked is met.' : 'What was asked is not met.'}\n`);
}
